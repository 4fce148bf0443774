import { getRouteApi } from "@tanstack/react-router";
import { Suspense, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Build, type Solved, type SourceState, type StoredBuild, problemOf } from "../api/client";
import { useStepOf } from "../api/reference";
import { useAfterPaint } from "../base/paint";
import { usePrefs } from "../base/prefs";
import { saveFile } from "../base/save";
import { fileName } from "../document/file";
import { STEPS, STEP_NAMES, type Step, likelyStates } from "../document/steps";
import { changedTo, undoesBy } from "../document/removed";
import { useBuild } from "../document/useBuild";
import { SavingProvider } from "../document/useSaving";
import { useAhead, useRemedies, useSolved } from "../document/useSolved";
import { useMayEdit } from "../garage/role";
import { type Address, type Site, SiteProvider } from "../steps/module";
import { Keepers, MODULES, PrintedSheet } from "../steps/registry";
import { Guard } from "../ui/Guard";
import { useDialog } from "../ui/dialog";
import { useSettings } from "../ui/Settings";
import { commands } from "./commands";
import { Middle } from "./Middle";
import { Palette, ShortcutSheet } from "./Palette";
import { SaveBanner } from "./Saving";
import { StepRail } from "./StepRail";
import { TopBar } from "./TopBar";
import { useKeys } from "./useKeys";
import { NewestVerdict } from "./VerdictPanel";

const route = getRouteApi("/builds/$id");

const NO_FEEDS: Solved["feeds"] = {};
const NO_STANDS: Solved["stands"] = [];

function download(build: Build) {
  saveFile(fileName(build), "application/json", JSON.stringify(build, null, 2));
}

/** A build at work: its tools, the step that is open, and what is said of it all. */
export function Workbench({ stored }: { stored: StoredBuild }) {
  const shownRef = useRef<{ scene: string; state: SourceState }>({ scene: "", state: "full" });
  const editing = useBuild(stored, useAhead(shownRef), useMayEdit());
  const { build, edit, undo, redo } = editing;
  const search = route.useSearch();
  const prefs = usePrefs();
  const navigate = route.useNavigate();
  const stepOf = useStepOf();
  const [selected, setSelected] = useState<string | null>(null);
  const [place, setPlace] = useState<string | null>(null);
  const [overlay, setOverlay] = useState<"palette" | null>(null);

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
  const step: Step = search.step ?? "battery";

  // A chosen place waits for its light only while the places or lights are being worked on.
  useEffect(() => {
    if (search.step !== "places" && search.step !== "lights") setPlace(null);
  }, [search.step]);

  // An open page works on without the server, so it has all its scripts once there is time to fetch them.
  useEffect(() => {
    const fetchAll = async () => {
      const fetched = await Promise.allSettled(STEPS.map((name) => MODULES[name].fetch?.()));
      if (fetched.every(({ status }) => status === "fulfilled")) document.documentElement.dataset.scripts = "all";
    };
    const waiting = requestIdleCallback(() => void fetchAll(), { timeout: 5000 });
    return () => cancelIdleCallback(waiting);
  }, []);

  useEffect(() => {
    document.title = `${search.step ? `${STEP_NAMES[search.step]} · ` : ""}${build.name} · Orthavis`;
    return () => {
      document.title = "Orthavis";
    };
  }, [build.name, search.step]);

  useEffect(() => {
    undoesBy(undo);
    return () => undoesBy(null);
  }, [undo]);
  useEffect(() => {
    changedTo(build);
  }, [build]);

  // Back goes to the step before; what is shown within a step is no page of its own.
  const stepNow = useRef(search.step);
  stepNow.current = search.step;
  const go = useCallback(
    (change: Address & { step?: Step; scene?: string; state?: SourceState }) =>
      void navigate({ search: (old) => ({ ...old, ...(change as typeof old) }), replace: !("step" in change) || change.step === stepNow.current }),
    [navigate],
  );
  const openFinding = useCallback(
    (subject: string, code: string) => {
      setSelected(subject.split("#")[0] ?? subject);
      // On a phone the editor is a page of its own; there the finding stays in view.
      if (window.matchMedia("(min-width: 48rem)").matches) go({ step: stepOf(code) ?? stepNow.current });
    },
    [go, stepOf],
  );
  const onCircuit = useCallback((id: string | null) => go(id === null ? { circuit: undefined } : { circuit: id, step: "power" }), [go]);
  const onStep = useCallback((next: Step | undefined) => go({ step: next }), [go]);
  const onPlace = useCallback(
    (name: string | null, light?: boolean) => {
      setPlace(name);
      if (light) go({ step: "lights" });
      else if (name !== null) go({ step: "places" });
    },
    [go],
  );
  const onPalette = useCallback(() => setOverlay("palette"), []);
  const [, setSettings] = useSettings();
  const [keysShown, setKeysShown] = useDialog("keys", "Shortcuts");
  const onSheet = useCallback(() => setKeysShown(true), [setKeysShown]);
  const [printing, setPrinting] = useState(false);
  const onPrint = useCallback(() => setPrinting(true), []);
  const onPrinted = useCallback(() => setPrinting(false), []);
  const buildRef = useRef(build);
  buildRef.current = build;
  const onExport = useCallback(() => download(buildRef.current), []);
  useKeys({ undo, redo, onPalette, onSheet, onStep, onPrint });

  // As text, so that the rail is drawn again only when a count changes.
  const stops = STEPS.map((name) => solved?.findings.filter((finding) => finding.severity === "stop" && stepOf(finding.code) === name).length ?? 0).join();
  const cautions = useMemo(() => (solved?.cautions ?? []).filter((caution) => caution.step === step), [solved?.cautions, step]);
  const circuit = step === "power" ? ((build.circuits ?? []).find((known) => known.id === search.circuit)?.id ?? null) : null;
  const site: Site = {
    id: stored.id,
    step,
    editor: {
      source: drawn?.source ?? null,
      carried: drawn?.feeds ?? NO_FEEDS,
      place,
      onPlace,
      build,
      edit,
      replace: editing.replace,
      picture: drawn?.picture ?? null,
      scene,
      state,
      selected,
      onSelect: setSelected,
      circuit,
      onCircuit,
    },
    address: search,
    go,
    planned: drawn?.picture ?? null,
    stands: solved?.stands ?? NO_STANDS,
    problem,
  };
  // A scene and state without a balance has no figures; the verdict says why.
  const collapsed = solved !== undefined && solved.picture === null && build.lights.length > 0;
  const noFigures = collapsed
    ? "There are no figures for this scene at this charge: something cannot stay on. The verdict says what, and what helps."
    : undefined;
  const shown = [step, search.view, search.bench, search.journal, search.circuit].join();
  const acts = {
    states,
    onState: (next: SourceState) => go({ state: next }),
    undo,
    redo,
    onExport,
    onPrint,
    onKeys: onSheet,
    onSettings: () => setSettings(true),
  };
  return (
    <SavingProvider value={editing.saver}>
      <SiteProvider value={site}>
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
            onExport={onExport}
            onPalette={onPalette}
          />
          {overlay === "palette" && <Palette commands={commands(site, prefs, acts)} onClose={() => setOverlay(null)} />}
          {keysShown && <ShortcutSheet onClose={() => setKeysShown(false)} />}
          {printing && (
            <Suspense>
              <PrintedSheet onDone={onPrinted} />
            </Suspense>
          )}
          <SaveBanner onAdopt={editing.adopt} />
          <main>
            <StepRail current={search.step ? step : null} shown={step} stops={stops} onStep={onStep} />
            <Keepers>
              <Middle open={search.step !== undefined} shown={shown} noFigures={noFigures} />
            </Keepers>
            <section aria-label="Verdict" className={search.step ? "pane verdict away" : "pane verdict"}>
              <Guard what="The verdict" of={shown}>
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
      </SiteProvider>
    </SavingProvider>
  );
}
