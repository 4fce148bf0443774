import { lazy } from "react";
import { EditingProvider } from "../../job/Field";
import { type StepModule, type StepView, useSite } from "../module";
import { plain } from "../plain";
import { PowerStep } from "./PowerStep";

const fetch = () => import("./CircuitWorkshop");
const Workshop = lazy(() => fetch().then((module) => ({ default: module.CircuitWorkshop })));

/** The small circuit whose workshop is open. */
function Circuit() {
  const { editor, stands } = useSite();
  const { build, edit, replace, state, circuit, onCircuit } = editor;
  return (
    <EditingProvider build={build} edit={edit} stands={stands}>
      <Workshop
        key={circuit}
        build={build}
        replace={replace}
        index={(build.circuits ?? []).findIndex((known) => known.id === circuit)}
        state={state}
        onClose={() => onCircuit(null)}
      />
    </EditingProvider>
  );
}

export const power: StepModule = {
  Editor: plain(PowerStep),
  view: ({ editor: { circuit } }): StepView | undefined =>
    circuit === null ? undefined : { label: `Parts of ${circuit}`, View: Circuit, after: true, fetching: "Drawing it …" },
  fetch,
};
