import { lazy } from "react";
import type { StepModule } from "../module";

const fetch = () => import("./panes");
const part = (name: keyof Awaited<ReturnType<typeof fetch>>) => lazy(() => fetch().then((module) => ({ default: module[name] })));

const make = (label: string, editor: Parameters<typeof part>[0], middle: Parameters<typeof part>[0]): StepModule => {
  const view = { label, View: part(middle), fetching: "Loading …" };
  return { Editor: part(editor), view: () => view, fetch };
};

export const steps = make("What to do", "StepsEditor", "StepsMiddle");
export const parts: StepModule = { ...make("What it takes", "PartsEditor", "PartsMiddle"), scrolls: true };
export const diagram = make("The drawing", "DiagramEditor", "DiagramMiddle");
