import { type ReactNode, lazy } from "react";
import type { Step } from "../document/steps";
import { BatteryStep } from "./battery/BatteryStep";
import { bench } from "./bench/module";
import { drain } from "./drain/module";
import { journal } from "./journal/module";
import { LightsStep } from "./lights/LightsStep";
import { look } from "./look/module";
import { diagram, parts, steps } from "./make/module";
import type { StepModule } from "./module";
import { PlacesStep } from "./places/PlacesStep";
import { plain } from "./plain";
import { power } from "./power/module";
import { show } from "./show/module";
import { trouble } from "./trouble/module";
import { WiresStep } from "./wires/WiresStep";

/** Every step of the job; the workbench knows none by its name. */
export const MODULES: Record<Step, StepModule> = {
  battery: { Editor: plain(BatteryStep) },
  places: { Editor: plain(PlacesStep) },
  lights: { Editor: plain(LightsStep) },
  look,
  power,
  wires: { Editor: plain(WiresStep) },
  drain,
  show,
  bench,
  steps,
  parts,
  diagram,
  journal,
  trouble,
};

const KEEPERS = Object.values(MODULES).flatMap((module) => module.Keeper ?? []);

/** What steps keep while another is open. */
export const Keepers = ({ children }: { children: ReactNode }) => KEEPERS.reduceRight((inner, Keeper) => <Keeper>{inner}</Keeper>, children);

/** The whole build on paper, from whatever step is open. */
export const PrintedSheet = lazy(() => import("./make/PrintedSheet"));
