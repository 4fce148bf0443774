import { type ComponentType, type ReactNode, createContext, useContext } from "react";
import type { Picture, Problem, Solved } from "../api/client";
import type { EditorProps } from "../document/editor";
import type { Command } from "../document/command";
import type { Step } from "../document/steps";
import type { PinchOnRiver } from "../scene/River";

/** What stands in the address beside the step. */
export interface Address {
  view?: string;
  bench?: string;
  journal?: string;
  circuit?: string;
}

/** Where a step of the job is at work. */
export interface Site {
  /** The build's number on the shelf. */
  id: number;
  step: Step;
  editor: EditorProps;
  address: Address;
  go: (change: Address & { step?: Step; scene?: string }) => void;
  /** The drawings and figures as planned. */
  planned: Picture | null;
  stands: Solved["stands"];
  problem: Problem | null;
}

const SiteContext = createContext<Site | null>(null);
export const SiteProvider = SiteContext.Provider;

/** Where this step is at work. */
export function useSite(): Site {
  const site = useContext(SiteContext);
  if (!site) throw new Error("a step stands outside a build");
  return site;
}

/** What the drawing shows in place of what is planned. */
export interface Drawn {
  picture?: Picture | null;
  pinch?: PinchOnRiver;
}

const DrawnContext = createContext<Drawn>({});
export const DrawnProvider = DrawnContext.Provider;
export const useDrawn = () => useContext(DrawnContext);

/** What a step puts into the middle of the workbench, beside its editor. */
export interface StepView {
  /** What it is called. */
  label: string;
  View: ComponentType;
  /** Before it, where there are several things to see. */
  Head?: ComponentType;
  /** On a phone it stands below the editor, not above it. */
  after?: boolean;
  /** What is said until it has been fetched. */
  fetching?: string;
}

/** One step of the job: everything that the workbench knows of it. */
export interface StepModule {
  Editor: ComponentType;
  /** What stands in the middle; nothing: the vehicle and the river. */
  view?: (site: Site) => StepView | undefined;
  /** Whether the drawing stands there as well, below the view's head. */
  withDrawing?: (site: Site) => boolean;
  /** What its editor and its view share, kept while another step is open. */
  Keeper?: ComponentType<{ children: ReactNode }>;
  /** What the palette finds of it beside the step itself. */
  commands?: (site: Site) => Command[];
  /** The editor may have nothing in it that can be focused, and is then scrolled by itself. */
  scrolls?: boolean;
  /** Fetches what it needs once there is time: an open page works on without the server. */
  fetch?: () => Promise<unknown>;
}
