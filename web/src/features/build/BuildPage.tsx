import { Box, Button, IconButton, Spinner, VisuallyHidden, chakra } from "@chakra-ui/react";
import { keepPreviousData, replaceEqualDeep, useQuery } from "@tanstack/react-query";
import { Link, getRouteApi } from "@tanstack/react-router";
import { type ChangeEvent, type ReactNode, memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Build, type Solved, type SourceState, type StoredBuild, answer, api, problemOf } from "../../api/client";
import { Failure } from "../../ui/Failure";
import { WorkingProvider } from "../../ui/Figure";
import { Prose } from "../../ui/Prose";
import { setPrefs, usePrefs } from "../../ui/prefs";
import { saveFile } from "../../ui/save";
import { Segments } from "../../ui/Segments";
import { useSteady } from "../../ui/steady";
import { ThemeSwitch } from "../../ui/theme-switch";
import { clock } from "../../units";
import { BatteryStep } from "../battery/BatteryStep";
import { LightsStep } from "../lights/LightsStep";
import { PowerStep } from "../power/PowerStep";
import { PlacesStep } from "../places/PlacesStep";
import { WiresStep } from "../wires/WiresStep";
import { type Command, Palette, ShortcutSheet } from "./Palette";
import { HistoryDialog } from "./HistoryDialog";
import { River } from "./River";
import { STEPS, STEP_NAMES, type Step, stepOf } from "./steps";
import { type SaveState, useBuild } from "./useBuild";
import { Vehicle } from "./Vehicle";
import { VerdictPanel } from "./VerdictPanel";
import { Icon } from "../../ui/icons";

const route = getRouteApi("/builds/$id");

export function BuildPage() {
  const id = Number(route.useParams().id);
  const stored = useQuery({
    queryKey: ["build", id],
    queryFn: () => answer(api.GET("/api/v1/builds/{id}", { params: { path: { id } } })),
    gcTime: 0,
    staleTime: Infinity,
  });
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
  const editing = useBuild(stored);
  const { build, edit, undo, redo } = editing;
  const search = route.useSearch();
  const prefs = usePrefs();
  const navigate = route.useNavigate();
  const [selected, setSelected] = useState<string | null>(null);
  const [place, setPlace] = useState<string | null>(null);
  const [overlay, setOverlay] = useState<"palette" | "keys" | null>(null);

  const scene = build.scenes.find((known) => known.id === search.scene)?.id ?? build.scenes[0]?.id ?? "";
  const asked = search.state ?? "full";

  const last = useRef<(Solved & { build: Build }) | undefined>(undefined);
  const solved = useQuery({
    queryKey: ["solve", build, scene, asked],
    // The answer keeps the document it belongs to: what is shown together was solved together.
    queryFn: async ({ signal }) => {
      const answered = await answer(api.POST("/api/v1/solve", { body: { document: build, scene, state: asked }, signal }));
      // What is equal to the answer before stays the same object, so that only what changed is drawn again.
      return (last.current = { ...replaceEqualDeep(last.current, answered), build });
    },
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const problem = solved.error ? problemOf(solved.error) : null;
  const picture = solved.data?.picture ?? null;
  const report = solved.data?.report ?? null;
  // Which states a source has is the core's to say; until its first answer the dial shows the usual ones.
  const solvedStates = [...new Set(report?.points.map((point) => point.state))];
  const states: SourceState[] = solvedStates.length > 0 ? solvedStates : build.source.kind === "rail" ? ["rail"] : ["full", "half", "reserve"];
  const state = states.find((known) => known === asked) ?? picture?.state ?? states[0]!;

  // A chosen place waits for its light only while the places or lights are being worked on.
  useEffect(() => {
    if (search.step !== "places" && search.step !== "lights") setPlace(null);
  }, [search.step]);

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
      if (window.matchMedia("(min-width: 48rem)").matches) void navigate({ search: (old) => ({ ...old, step: stepOf(code) }), replace: true });
    },
    [navigate],
  );
  const go = useCallback(
    (change: { step?: Step; scene?: string; state?: SourceState }) => void navigate({ search: (old) => ({ ...old, ...change }), replace: true }),
    [navigate],
  );
  const goStep = useCallback((next: Step | undefined) => go({ step: next }), [go]);
  const onPlace = useCallback(
    (name: string | null, light?: boolean) => {
      setPlace(name);
      if (light) go({ step: "lights" });
      else if (name !== null) go({ step: "places" });
    },
    [go],
  );
  const step = search.step;
  const shownStep: Step = step ?? "battery";
  // As text, so that the rail is drawn again only when a count changes.
  const stops = STEPS.map((name) => report?.findings.filter((finding) => finding.severity === "stop" && stepOf(finding.code) === name).length ?? 0).join();

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
      else if (/^[1-9]$/.test(key) && STEPS[Number(key) - 1]) go({ step: STEPS[Number(key) - 1] });
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo, go]);

  const commands = (): Command[] => [
    ...STEPS.map((name, index) => ({ name: `Go to ${STEP_NAMES[name]}`, keys: String(index + 1), act: () => go({ step: name }) })),
    ...build.scenes.map((known) => ({ name: `Scene: ${known.name}`, act: () => go({ scene: known.id }) })),
    ...states.map((known) => ({ name: `Battery: ${known}`, act: () => go({ state: known }) })),
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

  const cautions = useMemo(() => (solved.data?.cautions ?? []).filter((caution) => caution.step === shownStep), [solved.data?.cautions, shownStep]);
  const editor = {
    source: solved.data?.source ?? null,
    place,
    onPlace,
    build,
    edit,
    replace: editing.replace,
    report,
    picture,
    scene,
    state,
    selected,
    onSelect: setSelected,
  };
  return (
    <Box h={{ md: "100%" }} display="flex" flexDirection="column" minH="100%">
      <Box
        as="header"
        display="flex"
        flexWrap="wrap"
        alignItems="center"
        columnGap="3"
        rowGap="2"
        px="4"
        py="1.5"
        minH="13"
        bg="bg.subtle"
        borderBottomWidth="1px"
      >
        <Box asChild color="lantern.fg" fontWeight="bold" minH="8" display="inline-flex" alignItems="center">
          <Link to="/" aria-label="Orthavis, back to the shelf">
            Orthavis
          </Link>
        </Box>
        <VisuallyHidden asChild>
          <h1>{build.name}</h1>
        </VisuallyHidden>
        <Box flex={{ base: "1 1 60%", md: "1 1 8rem" }} maxW="16rem" minW="0">
          <chakra.input
            aria-label="Name of the build"
            value={build.name}
            maxLength={200}
            onChange={(event: ChangeEvent<HTMLInputElement>) => edit((draft) => void (draft.name = event.target.value), "name")}
            fontSize="md"
            fontWeight="semibold"
            bg="transparent"
            minW="0"
            w="full"
            minH="7"
            px="1"
            borderRadius="sm"
            textOverflow="ellipsis"
            _hover={{ bg: "bg.muted" }}
          />
          <SaveNote save={editing.save} savedAt={editing.savedAt} revision={editing.revision} />
        </Box>
        <Toolbar
          id={stored.id}
          revision={editing.revision}
          canUndo={editing.canUndo}
          canRedo={editing.canRedo}
          undo={undo}
          redo={redo}
          onRestore={useSteady(editing.adopt)}
          onExport={useSteady(() => download(build))}
          onPalette={useSteady(() => setOverlay("palette"))}
        />
        <Box display="flex" flexWrap="wrap" alignItems="center" columnGap="3" rowGap="2">
          {build.scenes.length > 0 && (
            <Segments
              label="Scene"
              value={scene}
              options={build.scenes.map((known) => [known.id, known.name] as const)}
              onChange={(next) => go({ scene: next })}
            />
          )}
          <Segments label="Battery at" value={state} options={states.map((known) => [known, known] as const)} onChange={(next) => go({ state: next })} />
        </Box>
      </Box>

      {overlay === "palette" && <Palette commands={commands()} onClose={() => setOverlay(null)} />}
      {overlay === "keys" && <ShortcutSheet onClose={() => setOverlay(null)} />}
      {editing.save.kind === "stale" && (
        <Banner text={`This build was saved elsewhere meanwhile, as revision ${editing.save.theirs.revision}. Nothing you typed is lost.`}>
          <Button size="xs" variant="outline" onClick={editing.keepMine}>
            Keep mine on top
          </Button>
          <Button size="xs" variant="outline" onClick={() => editing.save.kind === "stale" && editing.adopt(editing.save.theirs)}>
            Take theirs (undo brings mine back)
          </Button>
        </Banner>
      )}
      {(editing.save.kind === "failed" || editing.save.kind === "refused") && <Banner text={`Not saved: ${editing.save.problem.detail}`} />}

      <Box
        as="main"
        flex="1"
        minH="0"
        display="grid"
        gridTemplateColumns={{ base: "1fr", md: "5.2rem minmax(17rem, 21.5rem) minmax(0, 1fr)", lg: "5.2rem minmax(18rem, 21.5rem) minmax(0, 1fr) 18.5rem" }}
        gridTemplateRows={{ base: "auto", md: "minmax(0, 1fr)" }}
      >
        <StepRail current={step ? shownStep : null} shown={shownStep} stops={stops} onStep={goStep} />
        <Box
          as="section"
          aria-label={STEP_NAMES[shownStep]}
          hideBelow={step ? undefined : "md"}
          overflowY={{ md: "auto" }}
          p="4"
          pb={{ base: "20", md: "6" }}
          borderRightWidth={{ md: "1px" }}
          bg="bg.subtle"
          order={{ base: 2, md: "initial" }}
        >
          {shownStep === "battery" && <BatteryStep {...editor} />}
          {shownStep === "places" && <PlacesStep {...editor} />}
          {shownStep === "lights" && <LightsStep {...editor} />}
          {shownStep === "power" && <PowerStep {...editor} />}
          {shownStep === "wires" && <WiresStep {...editor} />}
        </Box>
        <Box
          as="section"
          aria-label="The build"
          hideBelow={step ? "md" : undefined}
          display="flex"
          flexDirection="column"
          minH="0"
          minW="0"
          order={{ base: 3, md: "initial" }}
          pb={{ base: "20", md: "0" }}
          opacity={problem ? 0.45 : 1}
        >
          <Vehicle
            kind={build.vehicle.kind}
            picture={picture}
            selected={selected}
            onSelect={setSelected}
            place={place}
            onPlace={shownStep === "places" || shownStep === "lights" ? onPlace : undefined}
            blink={prefs.blink}
          />
          <Box borderTopWidth="1px" flex="1.05" minH="0" display="flex">
            <River picture={picture} selected={selected} onSelect={setSelected} />
          </Box>
        </Box>
        <Box
          as="section"
          aria-label="Verdict"
          hideBelow={step ? "md" : undefined}
          gridColumn={{ md: "1 / -1", lg: "auto" }}
          overflowY={{ lg: "auto" }}
          borderLeftWidth={{ lg: "1px" }}
          borderTopWidth={{ md: "1px", lg: "0" }}
          bg="bg.subtle"
          p="4"
          order={{ base: 1, md: "initial" }}
        >
          <VerdictPanel
            build={solved.data?.build ?? build}
            report={report}
            problem={problem}
            scene={scene}
            cautions={cautions}
            selected={selected}
            onSelect={openFinding}
            onApply={editing.replace}
          />
        </Box>
      </Box>
    </Box>
  );
}

interface ToolbarProps {
  id: number;
  revision: number;
  canUndo: boolean;
  canRedo: boolean;
  undo: () => void;
  redo: () => void;
  onRestore: (stored: StoredBuild) => void;
  onExport: (none: void) => void;
  onPalette: (none: void) => void;
}

const Toolbar = memo(function Toolbar({ id, revision, canUndo, canRedo, undo, redo, onRestore, onExport, onPalette }: ToolbarProps) {
  return (
    <Box display="flex" alignItems="center" ml={{ lg: "auto" }}>
      <IconButton aria-label="Undo" title="Undo (Ctrl Z)" size="sm" variant="ghost" disabled={!canUndo} onClick={undo}>
        <Icon name="undo" />
      </IconButton>
      <IconButton aria-label="Redo" title="Redo (Ctrl Shift Z)" size="sm" variant="ghost" disabled={!canRedo} onClick={redo}>
        <Icon name="redo" />
      </IconButton>
      <HistoryDialog id={id} revision={revision} onRestore={onRestore} />
      <IconButton aria-label="Export the build as a file" title="Export as a file" size="sm" variant="ghost" onClick={() => onExport()}>
        <Icon name="save" />
      </IconButton>
      <IconButton aria-label="Commands and shortcuts" title="Commands (Ctrl K)" size="sm" variant="ghost" onClick={() => onPalette()}>
        <Icon name="command" />
      </IconButton>
      <ThemeSwitch />
    </Box>
  );
});

function download(build: Build) {
  saveFile(`${build.name.toLowerCase().replace(/[^a-z0-9]+/g, "-") || "build"}.json`, "application/json", JSON.stringify(build, null, 2));
}

function SaveNote({ save, savedAt, revision }: { save: SaveState; savedAt: string; revision: number }) {
  const words: Record<SaveState["kind"], string> = {
    saved: `Saved ${clock(savedAt)} · revision ${revision}`,
    unsaved: "Saving…",
    saving: "Saving…",
    refused: "Not saved yet",
    failed: "Not saved yet, trying again",
    stale: "Saved elsewhere too",
  };
  const bad = save.kind === "failed" || save.kind === "refused" || save.kind === "stale";
  return (
    <Box role="status" data-save={save.kind} fontSize="xs" px="1" lineHeight="1.1" color={bad ? "stop.fg" : "fg.muted"} whiteSpace="nowrap">
      {words[save.kind]}
    </Box>
  );
}

function Banner({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <Box
      role="alert"
      display="flex"
      flexWrap="wrap"
      gap="3"
      alignItems="center"
      px="4"
      py="2"
      bg="fix.bg"
      color="fix.fg"
      borderBottomWidth="1px"
      borderColor="fix.line"
    >
      <Box whiteSpace="pre-line">
        <Prose text={text} />
      </Box>
      {children}
    </Box>
  );
}

interface RailProps {
  current: Step | null;
  shown: Step;
  /** Stops of each step, in order, as in `0,1,0,0`. */
  stops: string;
  onStep: (step: Step | undefined) => void;
}

/** The order of the job: down the left edge, or along the bottom of a phone. */
const StepRail = memo(function StepRail({ current, shown, stops, onStep }: RailProps) {
  const counts = stops.split(",").map(Number);
  return (
    <Box
      as="nav"
      aria-label="Steps"
      display="flex"
      flexDirection={{ base: "row", md: "column" }}
      position={{ base: "fixed", md: "static" }}
      bottom="0"
      insetX="0"
      zIndex={{ base: "docked", md: "auto" }}
      bg="bg.panel"
      borderTopWidth={{ base: "1px", md: "0" }}
      borderRightWidth={{ md: "1px" }}
      pt={{ md: "3" }}
    >
      <StepButton hideFrom="md" name="Verdict" number="✓" on={current === null} count={0} onClick={() => onStep(undefined)} />
      {STEPS.map((step, index) => (
        <StepButton
          key={step}
          name={STEP_NAMES[step]}
          number={String(index + 1)}
          on={current === step}
          mdOn={shown === step}
          count={counts[index] ?? 0}
          onClick={() => onStep(step)}
        />
      ))}
    </Box>
  );
});

interface StepButtonProps {
  name: string;
  number: string;
  on: boolean;
  mdOn?: boolean;
  count: number;
  hideFrom?: "md";
  onClick: () => void;
}

function StepButton({ name, number, on, mdOn = on, count, hideFrom, onClick }: StepButtonProps) {
  const edge = { base: on ? "lantern.solid" : "transparent", md: mdOn ? "lantern.solid" : "transparent" };
  return (
    <Box
      as="button"
      hideFrom={hideFrom}
      aria-current={mdOn ? "step" : undefined}
      onClick={onClick}
      flex={{ base: "1", md: "none" }}
      minH="14"
      py="2"
      display="flex"
      flexDirection="column"
      alignItems="center"
      justifyContent="center"
      cursor="pointer"
      borderTopWidth={{ base: "3px", md: "0" }}
      borderLeftWidth={{ md: "3px" }}
      borderColor={edge}
      bg={{ base: on ? "bg.muted" : undefined, md: mdOn ? "bg.muted" : undefined }}
      color={{ base: on ? "fg" : "fg.muted", md: mdOn ? "fg" : "fg.muted" }}
      fontSize="xs"
      _hover={{ bg: "bg.muted" }}
    >
      <Box as="span" aria-hidden fontSize="md" fontWeight="semibold">
        {number}
      </Box>
      {name}
      {count > 0 && (
        <Box as="span" color="stop.fg" fontWeight="semibold">
          {count} stop{count > 1 ? "s" : ""}
        </Box>
      )}
    </Box>
  );
}
