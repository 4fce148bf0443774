import { type ReactNode, createContext, useContext, useMemo, useState } from "react";
import { problemOf } from "../../api/client";
import { say } from "../../units";
import { type Drawn, DrawnProvider, type Site, type StepModule, useSite } from "../module";
import { BenchStep } from "./BenchStep";
import { CheckList } from "./CheckList";
import { pictureWith, useProbed } from "./useBench";
import { type Pinching, usePinch } from "./usePinch";
import { type Practising, usePractice } from "./usePractice";
import { BENCH_NAMES, BENCH_VIEWS, type BenchView } from "./views";

interface OnBench {
  fault: string | null;
  setFault: (fault: string | null) => void;
  probed: ReturnType<typeof useProbed>;
  pinching: Pinching;
  practising: Practising;
}

const Shared = createContext<OnBench | null>(null);
const viewOf = ({ address }: Site): BenchView => (address.bench as BenchView | undefined) ?? "meter";

function Keeper({ children }: { children: ReactNode }) {
  const site = useSite();
  const { build, scene, state, selected, onSelect } = site.editor;
  const here = site.step === "bench";
  const view = viewOf(site);
  const [fault, setFault] = useState<string | null>(null);
  const probed = useProbed(build, scene, state, fault, here);
  const pinching = usePinch(build, state, selected, onSelect, here && view === "pinch");
  const practising = usePractice(here && view === "practice");
  const { feed, at, put, here: pinched } = pinching;
  const pinch = useMemo(() => (pinched ? { feed, at, says: say({ value: pinched.fault_a, unit: "A" }), onPut: put } : undefined), [pinched, feed, at, put]);
  // With a fault in it the lights are shown as a person would find them.
  const lights = view === "practice" ? (practising.drill?.scene === scene ? practising.dealt?.lights : undefined) : fault ? probed.data?.lights : undefined;
  const drawn = useMemo((): Drawn => (here ? { picture: pictureWith(site.planned, lights), pinch } : {}), [here, site.planned, lights, pinch]);
  return (
    <Shared.Provider value={{ fault, setFault, probed, pinching, practising }}>
      <DrawnProvider value={drawn}>{children}</DrawnProvider>
    </Shared.Provider>
  );
}

function Editor() {
  const site = useSite();
  const { fault, setFault, probed, pinching, practising } = useContext(Shared)!;
  return (
    <BenchStep
      {...site.editor}
      view={viewOf(site)}
      onView={(bench) => site.go({ bench })}
      fault={fault}
      onFault={setFault}
      pinching={pinching}
      practising={practising}
      id={site.id}
      probed={probed.data}
      trouble={probed.error ? problemOf(probed.error).detail : null}
    />
  );
}

function List() {
  const { id, editor } = useSite();
  return <CheckList id={id} build={editor.build} state={editor.state} onTake={editor.replace} />;
}

export const bench: StepModule = {
  Editor,
  Keeper,
  view: (site) => (viewOf(site) === "list" ? { label: "Check list", View: List, after: true } : undefined),
  commands: ({ go }) => BENCH_VIEWS.map((view) => ({ name: `Bench: ${BENCH_NAMES[view].toLowerCase()}`, act: () => go({ step: "bench", bench: view }) })),
};
