import { Box, Spinner } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { getRouteApi } from "@tanstack/react-router";
import { Suspense, lazy, memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Build, type Solved, type SourceState, type StoredBuild, answer, api, problemOf } from "../api/client";
import { useStepOf } from "../api/reference";
import { useMayEdit } from "../garage/role";
import { Failure } from "../ui/Failure";
import { Guard } from "../ui/Guard";
import { EditingProvider } from "../job/Field";
import { WorkingProvider } from "../job/Figure";
import { useAfterPaint } from "../base/paint";
import { setPrefs, usePrefs } from "../base/prefs";
import { saveFile } from "../base/save";
import { Segments } from "../ui/Segments";
import { useSteady } from "../base/steady";
import { BenchStep } from "../steps/bench/BenchStep";
import { CheckList } from "../steps/bench/CheckList";
import { pictureWith, useProbed } from "../steps/bench/useBench";
import { usePinch } from "../steps/bench/usePinch";
import { usePractice } from "../steps/bench/usePractice";
import { BENCH_NAMES, BENCH_VIEWS, type BenchView } from "../steps/bench/views";
import { type Known, NOTHING_KNOWN } from "../steps/trouble/known";
import { TroubleStep } from "../steps/trouble/TroubleStep";
import { TroubleView } from "../steps/trouble/TroubleView";
import { BatteryStep } from "../steps/battery/BatteryStep";
import { DrainStep } from "../steps/drain/DrainStep";
import { VIEWS, VIEW_NAMES, type View } from "../steps/drain/views";
import { LightsStep } from "../steps/lights/LightsStep";
import { JournalStep } from "../steps/journal/JournalStep";
import { useLived } from "../steps/journal/useLived";
import { JOURNAL_NAMES, JOURNAL_VIEWS, type JournalPart } from "../steps/journal/views";
import { ShowStep } from "../steps/show/ShowStep";
import { useShowState } from "../steps/show/useShowState";
import { PlacesStep } from "../steps/places/PlacesStep";
import { PowerStep } from "../steps/power/PowerStep";
import { WiresStep } from "../steps/wires/WiresStep";
import type { EditorProps } from "../document/editor";
import { type Command, Palette, ShortcutSheet } from "./Palette";
import { River } from "../scene/River";
import { StepRail } from "./StepRail";
import { STATE_NAMES, STEPS, STEP_NAMES, type Step, likelyStates } from "../document/steps";
import { SavingProvider } from "../document/useSaving";
import { SaveBanner } from "./Saving";
import { TopBar } from "./TopBar";
import { Unreadable } from "./Unreadable";
import { say } from "../units";
import { fileName } from "../document/file";
import { useBuild } from "../document/useBuild";
import { useAhead, useRemedies, useSolved } from "../document/useSolved";
import { Vehicle } from "../scene/Vehicle";
import { NewestVerdict } from "./VerdictPanel";

const route = getRouteApi("/builds/$id");

const fetchDrain = () => import("../steps/drain/DrainView");
const DrainView = lazy(fetchDrain);
const fetchMake = () => import("../steps/make/MakeView");
const ShowView = lazy(() => import("../steps/show/ShowView").then((module) => ({ default: module.ShowView })));
const fetchJournal = () => import("../steps/journal/JournalView");
const JournalView = lazy(() => fetchJournal().then((module) => ({ default: module.JournalView })));
const CircuitWorkshop = lazy(() => import("../steps/power/CircuitWorkshop").then((module) => ({ default: module.CircuitWorkshop })));
const MakeView = lazy(fetchMake);

const NO_FEEDS: Solved["feeds"] = {};
const NO_STANDS: Solved["stands"] = [];

export function BuildPage() {
  const id = Number(route.useParams().id);
  const stored = useQuery({
    queryKey: ["build", id],
    queryFn: () => answer(api.GET("/api/v1/builds/{id}", { params: { path: { id } } })),
    gcTime: 0,
    staleTime: Infinity,
  });
  if (stored.error && problemOf(stored.error).type === "unreadable") return <Unreadable id={id} onMended={() => void stored.refetch()} />;
  if (stored.error) return <Failure problem={problemOf(stored.error)} retry={() => void stored.refetch()} />;
  if (!stored.data)
    return (
      <Box h="100%" display="grid" placeItems="center" role="status" aria-label="Opening the build">
        <Spinner color="lantern.solid" />
      </Box>
    );
  return (
    <WorkingProvider>
      <Workbench key={id} stored={stored.data} />
    </WorkingProvider>
  );
}

function Workbench({ stored }: { stored: StoredBuild }) {
  const shownRef = useRef<{ scene: string; state: SourceState }>({ scene: "", state: "full" });
  const editing = useBuild(stored, useAhead(shownRef), useMayEdit());
  const { build, edit, undo, redo } = editing;
  const search = route.useSearch();
  const prefs = usePrefs();
  const navigate = route.useNavigate();
  const stepOf = useStepOf();
  const [selected, setSelected] = useState<string | null>(null);
  const [place, setPlace] = useState<string | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [known, setKnown] = useState<Known>(NOTHING_KNOWN);
  const [overlay, setOverlay] = useState<"palette" | "keys" | null>(null);

  const scene = build.scenes.find((known) => known.id === search.scene)?.id ?? build.scenes[0]?.id ?? "";
  const asked = search.state ?? "full";

  shownRef.current = { scene, state: asked };
  const query = useSolved(build, scene, asked);
  const solved = query.data;
  const problem = query.error ? problemOf(query.error) : null;
  // The verdict is drawn first; the drawings and the figures in the editor follow as soon as there is time.
  const drawn = useAfterPaint(solved);
  const remedies = useRemedies(build);
  // Which states a source has is the core's to say; until its first answer the dial shows the likely ones, so that it need not move.
  const likely = likelyStates(build);
  const states: readonly SourceState[] = solved?.states ?? likely;
  const state = states.find((known) => known === asked) ?? solved?.picture?.state ?? states[0]!;

  // A chosen place waits for its light only while the places or lights are being worked on.
  useEffect(() => {
    if (search.step !== "places" && search.step !== "lights") setPlace(null);
  }, [search.step]);

  // An open page works on without the server, so it has all its scripts once there is time to fetch them.
  useEffect(() => {
    const waiting = requestIdleCallback(() => void Promise.all([fetchDrain(), fetchMake(), fetchJournal()]).catch(() => undefined));
    return () => cancelIdleCallback(waiting);
  }, []);

  useEffect(() => {
    document.title = `${build.name} · Orthavis`;
    return () => {
      document.title = "Orthavis";
    };
  }, [build.name]);

  const openFinding = useCallback(
    (subject: string, code: string) => {
      setSelected(subject.split("#")[0] ?? subject);
      // On a phone the editor is a page of its own; there the finding stays in view.
      if (window.matchMedia("(min-width: 48rem)").matches) void navigate({ search: (old) => ({ ...old, step: stepOf(code) ?? old.step }), replace: true });
    },
    [navigate, stepOf],
  );
  const go = useCallback(
    (change: { step?: Step; scene?: string; state?: SourceState; view?: View; bench?: BenchView; journal?: JournalPart; circuit?: string }) =>
      void navigate({ search: (old) => ({ ...old, ...change }), replace: true }),
    [navigate],
  );
  const onCircuit = useCallback((id: string | null) => go(id === null ? { circuit: undefined } : { circuit: id, step: "power" }), [go]);
  const goStep = useCallback((next: Step | undefined) => go({ step: next }), [go]);
  const onPlace = useCallback(
    (name: string | null, light?: boolean) => {
      setPlace(name);
      if (light) go({ step: "lights" });
      else if (name !== null) go({ step: "places" });
    },
    [go],
  );
  const onTrouble = useCallback(() => go({ step: "trouble" }), [go]);
  const step = search.step;
  const shownStep: Step = step ?? "battery";
  const view = search.view ?? "use";
  const bench = search.bench ?? "meter";
  const probed = useProbed(build, scene, state, fault, shownStep === "bench");
  const pinching = usePinch(build, state, selected, setSelected, shownStep === "bench" && bench === "pinch");
  const show = useShowState(build, scene, shownStep === "show");
  const goScene = useCallback((next: string) => go({ scene: next }), [go]);
  const lived = useLived(stored.id, build, shownStep === "journal");
  const practising = usePractice(shownStep === "bench" && bench === "practice");
  const { feed: pinchedFeed, at: pinchedAt, put: putPinch, here: pinched } = pinching;
  const pinch = useMemo(
    () => (pinched ? { feed: pinchedFeed, at: pinchedAt, says: say({ value: pinched.fault_a, unit: "A" }), onPut: putPinch } : undefined),
    [pinched, pinchedFeed, pinchedAt, putPinch],
  );
  // With a fault in it the lights are shown as a person would find them.
  const planned = drawn?.picture ?? null;
  const picture = useMemo(() => {
    if (shownStep !== "bench") return planned;
    if (bench === "practice") return pictureWith(planned, practising.drill?.scene === scene ? practising.dealt?.lights : undefined);
    return fault ? pictureWith(planned, probed.data?.lights) : planned;
  }, [shownStep, bench, practising.drill, practising.dealt, scene, fault, planned, probed.data]);
  const opened = shownStep === "power" ? (build.circuits ?? []).findIndex((circuit) => circuit.id === search.circuit) : -1;
  const making = shownStep === "steps" || shownStep === "parts" || shownStep === "diagram";
  const wide =
    shownStep === "drain" ||
    shownStep === "show" ||
    shownStep === "journal" ||
    shownStep === "trouble" ||
    making ||
    opened >= 0 ||
    (shownStep === "bench" && bench === "list");
  // As text, so that the rail is drawn again only when a count changes.
  const stops = STEPS.map((name) => solved?.findings.filter((finding) => finding.severity === "stop" && stepOf(finding.code) === name).length ?? 0).join();

  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      const key = event.key.toLowerCase();
      const typing = document.activeElement instanceof HTMLInputElement && document.activeElement.type !== "radio";
      if ((event.ctrlKey || event.metaKey) && !event.altKey) {
        if (key === "k") {
          event.preventDefault();
          setOverlay("palette");
        }
        if (key !== "z" && key !== "y") return;
        event.preventDefault();
        // A field with the caret in it takes its new value only when it lets go.
        if (document.activeElement instanceof HTMLInputElement) document.activeElement.blur();
        if (key === "y" || event.shiftKey) redo();
        else undo();
        return;
      }
      if (typing || event.altKey || document.activeElement instanceof HTMLSelectElement || document.querySelector("[role=dialog][data-state=open]")) return;
      if (event.key === "?") setOverlay("keys");
      else if (/^[0-9]$/.test(key) && STEPS[(Number(key) + 9) % 10]) go({ step: STEPS[(Number(key) + 9) % 10] });
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo, go]);

  const commands = (): Command[] => [
    ...STEPS.map((name, index) => ({
      name: `Go to ${STEP_NAMES[name]}`,
      keys: index < 10 ? String((index + 1) % 10) : undefined,
      act: () => go({ step: name }),
    })),
    ...BENCH_VIEWS.map((one) => ({ name: `Bench: ${BENCH_NAMES[one].toLowerCase()}`, act: () => go({ step: "bench", bench: one }) })),
    ...JOURNAL_VIEWS.map((one) => ({ name: `Journal: ${JOURNAL_NAMES[one].toLowerCase()}`, act: () => go({ step: "journal", journal: one }) })),
    ...VIEWS.map((known) => ({ name: `Drain: ${VIEW_NAMES[known].toLowerCase()}`, act: () => go({ step: "drain", view: known }) })),
    ...build.scenes.map((known) => ({ name: `Scene: ${known.name}`, act: () => go({ scene: known.id }) })),
    ...states.map((known) => ({ name: `Battery: ${STATE_NAMES[known]}`, act: () => go({ state: known }) })),
    ...[...build.converters, ...build.lights].map((part) => ({ name: `Open ${part.id}`, act: () => setSelected(part.id) })),
    { name: "Add a light", act: () => onPlace("", true) },
    { name: "Undo", keys: "Ctrl Z", act: undo },
    { name: "Redo", keys: "Ctrl Shift Z", act: redo },
    { name: "Export the build", act: () => download(build) },
    { name: prefs.imperial ? "Lengths in metres" : "Lengths in inches", act: () => setPrefs({ imperial: !prefs.imperial }) },
    { name: prefs.metric ? "Wires in AWG" : "Wires in mm²", act: () => setPrefs({ metric: !prefs.metric }) },
    { name: prefs.blink ? "Keep blinking lights still" : "Let blinking lights blink", act: () => setPrefs({ blink: !prefs.blink }) },
    { name: "Shortcuts", keys: "?", act: () => setOverlay("keys") },
  ];

  const cautions = useMemo(() => (solved?.cautions ?? []).filter((caution) => caution.step === shownStep), [solved?.cautions, shownStep]);
  const editor: EditorProps = {
    source: drawn?.source ?? null,
    carried: drawn?.feeds ?? NO_FEEDS,
    place,
    onPlace,
    build,
    edit,
    replace: editing.replace,
    picture,
    scene,
    state,
    selected,
    onSelect: setSelected,
    circuit: opened >= 0 ? (search.circuit ?? null) : null,
    onCircuit,
  };
  // A scene and state without a balance has no figures; the verdict says why.
  const collapsed = solved !== undefined && solved.picture === null && build.lights.length > 0;
  const noFigures = collapsed
    ? "There are no figures for this scene at this charge: something cannot stay on. The verdict says what, and what helps."
    : undefined;
  // What stands in a pane: its own step, view and part. Going to another of them begins anew.
  const shownPane = [shownStep, view, bench, search.journal, search.circuit].join();
  const leave = { title: "Go to Battery", act: () => go({ step: "battery", circuit: undefined }) };
  return (
    <SavingProvider value={editing.saver}>
      <div className="workbench">
        <TopBar
          id={stored.id}
          name={build.name}
          scenes={build.scenes}
          scene={scene}
          states={states}
          state={state}
          canUndo={editing.canUndo}
          canRedo={editing.canRedo}
          edit={edit}
          undo={undo}
          redo={redo}
          go={go}
          onRestore={editing.adopt}
          onExport={useSteady(() => download(build))}
          onPalette={useSteady(() => setOverlay("palette"))}
        />
        {overlay === "palette" && <Palette commands={commands()} onClose={() => setOverlay(null)} />}
        {overlay === "keys" && <ShortcutSheet onClose={() => setOverlay(null)} />}
        <SaveBanner onAdopt={editing.adopt} />

        <main>
          <StepRail current={step ? shownStep : null} shown={shownStep} stops={stops} onStep={goStep} />
          {making ? (
            <Guard what="This step" of={shownPane} leave={leave}>
              <Suspense fallback={<p className="quiet">Fetching the workshop …</p>}>
                <MakeView step={shownStep} id={stored.id} editor={editor} onTrouble={onTrouble}>
                  {(own, view) => (
                    <>
                      <section
                        aria-label={STEP_NAMES[shownStep]}
                        className={step ? "pane editor" : "pane editor away"}
                        // Where there is nothing in it to be focused, it is scrolled by itself.
                        tabIndex={shownStep === "parts" ? 0 : undefined}
                      >
                        <EditingProvider build={build} edit={edit} stands={solved?.stands ?? NO_STANDS}>
                          {own}
                        </EditingProvider>
                      </section>
                      <section aria-label={MADE[shownStep]} className={step ? "pane drain" : "pane drain away"}>
                        <div className="drain-body">{view}</div>
                      </section>
                    </>
                  )}
                </MakeView>
              </Suspense>
            </Guard>
          ) : (
            <section aria-label={STEP_NAMES[shownStep]} className={step ? "pane editor" : "pane editor away"}>
              <Guard what="The editor" of={shownPane} leave={leave}>
                <EditingProvider build={build} edit={edit} stands={solved?.stands ?? NO_STANDS}>
                  {shownStep === "bench" ? (
                    <BenchStep
                      {...editor}
                      view={bench}
                      onView={(next) => go({ bench: next })}
                      fault={fault}
                      onFault={setFault}
                      pinching={pinching}
                      practising={practising}
                      id={stored.id}
                      probed={probed.data}
                      trouble={probed.error ? problemOf(probed.error).detail : null}
                    />
                  ) : shownStep === "show" ? (
                    <ShowStep {...editor} show={show} goScene={goScene} />
                  ) : shownStep === "journal" ? (
                    <JournalStep id={stored.id} build={build} lived={lived} onTrouble={onTrouble} />
                  ) : shownStep === "trouble" ? (
                    <TroubleStep build={build} scene={scene} known={known} onKnown={setKnown} onSelect={setSelected} />
                  ) : (
                    <Editor step={shownStep} view={view} {...editor} />
                  )}
                </EditingProvider>
              </Guard>
            </section>
          )}
          {shownStep === "drain" && (
            <section aria-label="What it costs" className={step ? "pane drain" : "pane drain away"}>
              <header>
                <Segments
                  label="Show"
                  quiet
                  value={view}
                  options={VIEWS.map((known) => [known, VIEW_NAMES[known]] as const)}
                  onChange={(next) => go({ view: next })}
                />
              </header>
              {view !== "vehicle" && (
                <div className="drain-body">
                  <Guard what="This view" of={shownPane} leave={leave}>
                    <Suspense fallback={<p className="quiet">Fetching the figures …</p>}>
                      <DrainView build={build} scene={scene} view={view} edit={edit} onTake={editing.replace} />
                    </Suspense>
                  </Guard>
                </div>
              )}
            </section>
          )}
          {shownStep === "bench" && bench === "list" && (
            <section aria-label="Check list" className={step ? "pane drain after" : "pane drain after away"}>
              <div className="drain-body">
                <Guard what="This view" of={shownPane} leave={leave}>
                  <CheckList id={stored.id} build={build} state={state} onTake={editing.replace} />
                </Guard>
              </div>
            </section>
          )}
          {shownStep === "show" && (
            <section aria-label="The show" className={step ? "pane drain" : "pane drain away"}>
              <div className="drain-body">
                <Guard what="This view" of={shownPane} leave={leave}>
                  <Suspense fallback={<p className="quiet">Fetching the stage …</p>}>
                    <ShowView build={build} scene={scene} replace={editing.replace} selected={selected} onSelect={setSelected} show={show} />
                  </Suspense>
                </Guard>
              </div>
            </section>
          )}
          {opened >= 0 && (
            <section aria-label={`Workshop of ${search.circuit}`} className={step ? "pane drain after" : "pane drain after away"}>
              <div className="drain-body">
                <Guard what="This view" of={shownPane} leave={leave}>
                  <EditingProvider build={build} edit={edit} stands={solved?.stands ?? NO_STANDS}>
                    <Suspense fallback={<p className="quiet">Drawing it …</p>}>
                      <CircuitWorkshop
                        key={search.circuit}
                        build={build}
                        replace={editing.replace}
                        index={opened}
                        state={state}
                        onClose={() => onCircuit(null)}
                      />
                    </Suspense>
                  </EditingProvider>
                </Guard>
              </div>
            </section>
          )}
          {shownStep === "journal" && (
            <section aria-label="What it says back" className={step ? "pane drain after" : "pane drain after away"}>
              <div className="drain-body">
                <Guard what="This view" of={shownPane} leave={leave}>
                  <Suspense fallback={<p className="quiet">Opening the journal …</p>}>
                    <JournalView
                      id={stored.id}
                      build={build}
                      lived={lived}
                      part={search.journal ?? "now"}
                      onPart={(next) => go({ journal: next })}
                      onTake={editing.replace}
                    />
                  </Suspense>
                </Guard>
              </div>
            </section>
          )}
          {shownStep === "trouble" && (
            <section aria-label="What is wrong" className={step ? "pane drain after" : "pane drain after away"}>
              <div className="drain-body">
                <Guard what="This view" of={shownPane} leave={leave}>
                  <TroubleView
                    id={stored.id}
                    build={build}
                    scene={scene}
                    state={state}
                    known={known}
                    onKnown={setKnown}
                    picture={planned}
                    selected={selected}
                    onSelect={setSelected}
                  />
                </Guard>
              </div>
            </section>
          )}
          {(!wide || (shownStep === "drain" && view === "vehicle")) && (
            <section
              aria-label="The build"
              className={`pane scene${shownStep === "drain" ? " below" : ""}${step && shownStep !== "drain" ? " away" : ""}${problem ? " faded" : ""}`}
            >
              <Guard what="The drawing" of={shownPane}>
                <Vehicle
                  kind={build.vehicle.kind}
                  variant={build.vehicle.variant}
                  picture={picture}
                  selected={selected}
                  onSelect={setSelected}
                  place={place}
                  onPlace={shownStep === "places" || shownStep === "lights" ? onPlace : undefined}
                  blink={prefs.blink}
                />
                <div className="river">
                  <River picture={picture} selected={selected} onSelect={setSelected} pinch={pinch} empty={noFigures} />
                </div>
              </Guard>
            </section>
          )}
          <section aria-label="Verdict" className={step ? "pane verdict away" : "pane verdict"}>
            <Guard what="The verdict" of={shownPane}>
              <NewestVerdict
                build={build}
                drawn={solved}
                remedies={remedies}
                problem={problem}
                scene={scene}
                cautions={cautions}
                selected={selected}
                onSelect={openFinding}
                onApply={editing.replace}
              />
            </Guard>
          </section>
        </main>
      </div>
    </SavingProvider>
  );
}

const MADE = { steps: "What to do", parts: "What it takes", diagram: "The drawing" };

/** What is edited at a step of the job. */
const Editor = memo(function Editor({ step, view, ...editor }: EditorProps & { step: Step; view: View }) {
  switch (step) {
    case "battery":
      return <BatteryStep {...editor} />;
    case "places":
      return <PlacesStep {...editor} />;
    case "lights":
      return <LightsStep {...editor} />;
    case "power":
      return <PowerStep {...editor} />;
    case "wires":
      return <WiresStep {...editor} />;
    case "drain":
      return <DrainStep {...editor} view={view} />;
    case "show":
    case "bench":
    case "steps":
    case "parts":
    case "diagram":
    case "journal":
    case "trouble":
      return null;
  }
});

function download(build: Build) {
  saveFile(fileName(build), "application/json", JSON.stringify(build, null, 2));
}
