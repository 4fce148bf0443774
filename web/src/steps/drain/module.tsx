import { lazy } from "react";
import { Segments } from "../../ui/Segments";
import { type Site, type StepModule, useSite } from "../module";
import { DrainStep } from "./DrainStep";
import { VIEWS, VIEW_NAMES, type View } from "./views";

const fetch = () => import("./DrainView");
const Middle = lazy(fetch);

const viewOf = ({ address }: Site): View => (address.view as View | undefined) ?? "use";

function Editor() {
  const site = useSite();
  return <DrainStep {...site.editor} view={viewOf(site)} />;
}

function Head() {
  const site = useSite();
  return (
    <Segments label="Show" quiet value={viewOf(site)} options={VIEWS.map((view) => [view, VIEW_NAMES[view]] as const)} onChange={(view) => site.go({ view })} />
  );
}

function Figures() {
  const site = useSite();
  const { build, scene, edit, replace } = site.editor;
  const view = viewOf(site);
  return view === "vehicle" ? null : <Middle build={build} scene={scene} view={view} edit={edit} onTake={replace} />;
}

export const drain: StepModule = {
  Editor,
  view: () => ({ label: "What it costs", View: Figures, Head, fetching: "Fetching the figures …" }),
  withDrawing: (site) => viewOf(site) === "vehicle",
  commands: ({ go }) => VIEWS.map((view) => ({ name: `Drain: ${VIEW_NAMES[view].toLowerCase()}`, act: () => go({ step: "drain", view }) })),
  fetch: () => Promise.all([fetch(), import("./OverTime")]),
};
