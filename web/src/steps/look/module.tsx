import { lazy } from "react";
import type { StepModule } from "../module";
import { plain } from "../plain";

const fetch = () => import("./LookStep");
const Editor = plain(lazy(async () => ({ default: (await fetch()).LookStep })));

/** What it looks like; the vehicle stands beside it. */
export const look: StepModule = { Editor, fetch };
