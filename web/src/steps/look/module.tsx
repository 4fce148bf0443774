import { lazy } from "react";
import type { StepModule } from "../module";
import { plain } from "../plain";

const fetch = () => Promise.all([import("./LookStep"), import("./NightView")]);
const Editor = plain(lazy(async () => ({ default: (await fetch())[0].LookStep })));
const View = lazy(async () => ({ default: (await fetch())[1].NightView }));

/** What it looks like: the night beside its figures. */
export const look: StepModule = { Editor, view: () => ({ label: "At night", View, fetching: "Waiting for the dark …" }), fetch };
