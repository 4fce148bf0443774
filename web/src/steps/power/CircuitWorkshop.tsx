import { Box, Button, IconButton } from "@chakra-ui/react";
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { Suspense, lazy, memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Build, type CircuitView, type SourceState, answer, api, problemOf } from "../../api/client";
import { called, editorOf, fieldAt, fieldsAt, valueAt } from "../../document/fields";
import { numberOf } from "../../document/useSolved";
import { useFollowed } from "../../api/useFollowed";
import { Field, useField } from "../../job/Field";
import { FieldGrid } from "../../job/fields";
import { Icon } from "../../ui/icons";
import { Prose } from "../../ui/Prose";
import { saveFile } from "../../base/save";
import { say } from "../../units";
import { CircuitSchematic } from "./CircuitSchematic";
import { Told, figuresTold } from "./told";
import { Wanted } from "./Wanted";
import { Waveforms, middle } from "./Waveforms";

const BoardView = lazy(() => import("./BoardView"));

interface Props {
  build: Build;
  replace: (document: Build) => void;
  /** Its place among the circuits of the build. */
  index: number;
  state: SourceState;
  onClose: () => void;
}

/** A value in hand: which field of the parts, and what it is while it is dragged. */
interface Held {
  field: string;
  value: number;
}

/** A circuit as its own workshop: what is wanted first, then the schematic, what it does, and how it is soldered. */
export function CircuitWorkshop({ build, replace, index, state, onClose }: Props) {
  const circuit = build.circuits![index]!;
  const [held, setHeld] = useState<Held | null>(null);
  const top = useRef<HTMLDivElement>(null);
  // On a phone it opens below everything else of the step.
  useEffect(() => {
    top.current?.scrollIntoView({ block: "start" });
  }, []);
  const [cursor, setCursor] = useState(120);
  const [node, setNode] = useState<string | null>(null);
  const [board, setBoard] = useState(false);
  const view = useView(build, index, state, held);
  const [playing, setPlaying] = useState(false);
  const lit = useBlink(view.data?.blink ?? null, playing);
  const now = view.data;
  const volts = useCallback(
    (name: string) => {
      const still = now?.volts.find((one) => one.node === name);
      if (still) return still.volts;
      const wave = now?.waveforms.find((one) => one.name === `${name}_v`);
      return wave && middle(wave, cursor);
    },
    [now, cursor],
  );
  const at = `/circuits/${index}/parts`;
  const fields = fieldsAt(build, at);
  const values = fields.filter(([, spec]) => editorOf(spec) !== "apart" && editorOf(spec) !== "figures");
  const taps = circuit.kind === "hold_up" ? circuit.parts.taps_ohm : [];
  return (
    <Box ref={top}>
      <Box display="flex" justifyContent="space-between" alignItems="center" gap="3">
        <h2 className="workshop-title">
          {circuit.id} <span className="quiet">{called("CircuitKind", circuit.kind)}</span>
        </h2>
        <IconButton aria-label={`Close the parts of ${circuit.id}`} title="Close" size="sm" variant="ghost" onClick={onClose}>
          <Icon name="remove" />
        </IconButton>
      </Box>
      <Wanted build={build} replace={replace} circuit={circuit} index={index} />
      {view.problem && (
        <Box role="alert" color="stop.fg" mt="2">
          <Prose text={view.problem.detail} />
        </Box>
      )}
      {view.data && (
        <>
          {view.data.problem && (
            <Box role="alert" color="fix.fg" mt="2">
              <Prose text={`It does not run: ${view.data.problem}.`} />
            </Box>
          )}
          <CircuitSchematic drawing={view.data.drawing} name={circuit.id} voltsOf={volts} node={node} onNode={setNode} field={held?.field ?? null} lit={lit} />
          {view.data.blink && (
            <Box display="flex" gap="2" alignItems="center" mb="2">
              <Button size="xs" minH="8" variant="outline" aria-pressed={playing} onClick={() => setPlaying(!playing)}>
                {playing ? "Hold still" : "Let it blink"}
              </Button>
              <span className="quiet">
                {view.data.blink.slowed ? "shown slowed down to three flashes a second; it is faster than anybody should be shown" : "at its true rate"}
              </span>
            </Box>
          )}
        </>
      )}
      <FieldGrid>
        {values.map(([name]) => {
          const value = valueAt(build, `${at}/${name}`);
          return (
            <div key={name}>
              <Field at={`${at}/${name}`} />
              {typeof value === "number" && DRAGGED.test(name) && (
                <Drag at={`${at}/${name}`} field={name} value={held?.field === name ? held.value : value} onHold={setHeld} />
              )}
            </div>
          );
        })}
        {taps.map((_, tap) => (
          <Field key={tap} at={`${at}/taps_ohm/${tap}`} label={`R${tap + 1}`} />
        ))}
        {fields
          .filter(([, spec]) => spec.of === "Led")
          .map(([name]) => (
            <Field key={name} at={`${at}/${name}/vf_v`} label={`Forward voltage, ${name.replace("led_", "")}`} />
          ))}
      </FieldGrid>
      {view.data && (
        <Results view={view.data} tap={circuit.kind === "hold_up" ? (circuit.parts.tap ?? 1) : 1} state={state} cursor={cursor} onCursor={setCursor} />
      )}
      <Button size="xs" minH="8" mt="3" variant="outline" aria-expanded={board} onClick={() => setBoard(!board)}>
        {board ? "Put the board away" : "How it goes on a board"}
      </Button>
      {board && (
        <Suspense>
          <BoardView build={build} circuit={circuit.id} />
        </Suspense>
      )}
      <Files build={build} circuit={circuit.id} state={state} />
    </Box>
  );
}

/** The circuit for other programs. */
const Files = memo(function Files({ build, circuit, state }: { build: Build; circuit: string; state: SourceState }) {
  const body = { document: build, circuit, state };
  const netlist = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/circuit/netlist", { body, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${circuit}.cir`, "text/plain", text as string),
  });
  const waveforms = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/circuit/csv", { body, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${circuit} - waveforms.csv`, "text/csv", text as string),
  });
  const error = netlist.error ?? waveforms.error;
  return (
    <>
      {error && (
        <Box role="alert" color="stop.fg" mt="2">
          {problemOf(error).detail}
        </Box>
      )}
      <Box display="flex" gap="2" mt="3">
        <Button size="xs" minH="8" variant="outline" loading={waveforms.isPending} onClick={() => waveforms.mutate()}>
          Waveforms (CSV)
        </Button>
        <Button size="xs" minH="8" variant="outline" loading={netlist.isPending} onClick={() => netlist.mutate()}>
          SPICE
        </Button>
      </Box>
    </>
  );
});

/** Fields that a slider makes sense for. */
const DRAGGED = /_ohm$|_f$/;

const withPart = (build: Build, index: number, { field, value }: Held): Build => ({
  ...build,
  circuits: build.circuits!.map((one, at) => (at === index ? ({ ...one, parts: { ...one.parts, [field]: value } } as typeof one) : one)),
});

/** What is drawn of it: the whole of it while it stands still, and what follows a hand while a value is dragged. */
function useView(build: Build, index: number, state: SourceState, held: Held | null) {
  const circuit = build.circuits![index]!.id;
  const whole = useQuery({
    queryKey: ["circuit view", numberOf(build), circuit, state],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/circuit/view", { body: { document: build, circuit, state, quick: false }, signal })),
    enabled: held === null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const dragged = useFollowed(
    "circuit/view",
    useMemo(() => held && { document: withPart(build, index, held), circuit, state, quick: true }, [build, index, circuit, state, held]),
  );
  // What the last drag ended with is nothing to begin the next one with; and until the whole has come, it stays.
  const ended = useRef(dragged.data);
  const shown = useRef(whole.data);
  if (held === null) ended.current = dragged.data;
  if (held === null ? !whole.isPlaceholderData || !shown.current : dragged.data !== ended.current) shown.current = held === null ? whole.data : dragged.data;
  const problem = held === null ? whole.error && problemOf(whole.error) : dragged.problem;
  return { data: shown.current, problem };
}

/** A slider over three decades around a value; it is written once it is let go of. */
function Drag({ at, field, value, onHold }: { at: string; field: string; value: number; onHold: (held: Held | null) => void }) {
  const { build, write } = useField(at);
  const middle = useRef(Math.log10(value));
  const dragging = useRef(false);
  useEffect(() => {
    if (!dragging.current) middle.current = Math.log10(value);
  }, [value]);
  const take = (text: string) => Number((10 ** Number(text)).toPrecision(2));
  const done = (text: string) => {
    dragging.current = false;
    write(take(text));
    onHold(null);
  };
  return (
    <input
      type="range"
      className="drag"
      aria-label={`${fieldAt(build, at).label ?? field}: slide`}
      aria-valuetext={say({ value, unit: field.endsWith("_f") ? "F" : "ohm" })}
      min={middle.current - 1.5}
      max={middle.current + 1.5}
      step={0.01}
      value={Math.log10(value)}
      onChange={(event) => {
        dragging.current = true;
        onHold({ field, value: take(event.target.value) });
      }}
      onPointerUp={(event) => done(event.currentTarget.value)}
      onKeyUp={(event) => dragging.current && done(event.currentTarget.value)}
      onBlur={(event) => dragging.current && done(event.currentTarget.value)}
    />
  );
}

/** Whether the light is on at this moment of the preview; nothing while it stands still. */
function useBlink(blink: CircuitView["blink"] | null, playing: boolean): boolean | null {
  const [on, setOn] = useState<boolean | null>(null);
  const [period, length] = [blink?.period_s, blink?.on_s];
  useEffect(() => {
    if (!playing || period == null || length == null) {
      setOn(null);
      return;
    }
    let timer = 0;
    const turn = (lit: boolean) => {
      setOn(lit);
      timer = window.setTimeout(() => turn(!lit), 1000 * (lit ? length : period - length));
    };
    turn(true);
    return () => window.clearTimeout(timer);
  }, [playing, period, length]);
  return on;
}

interface ResultsProps {
  view: CircuitView;
  tap: number;
  state: SourceState;
  cursor: number;
  onCursor: (cursor: number) => void;
}

/** What it does: at this state, over the whole battery, with parts at the edge of their tolerance, and by formula. */
const Results = memo(function Results({ view, tap, state, cursor, onCursor }: ResultsProps) {
  const here = view.states.find((one) => one.state === state) ?? view.states[0];
  return (
    <>
      {here?.figures && <Told figures={here.figures} tap={tap} />}
      {view.waveforms.length > 0 && (
        <Waveforms view={view} cursor={cursor} onCursor={onCursor} since={here?.figures?.taps ? "contact is lost" : "it is switched on"} />
      )}
      {view.states.length > 1 && <OverTheBattery states={view.states} tap={tap} />}
      {view.tolerances.length > 0 && (
        <Box mt="3">
          <h3 className="chart-title">With parts as they come</h3>
          {view.tolerances.map((one) => (
            <p key={one.figure}>
              {one.called}: <b>{say({ value: one.least, unit: one.unit })}</b> to <b>{say({ value: one.most, unit: one.unit })}</b>
            </p>
          ))}
          <p className="quiet">Resistors 5 %, film capacitors 10 %, electrolytic ones 20 % less to half as much again.</p>
        </Box>
      )}
      {view.formulas.length > 0 && (
        <Box mt="3">
          <h3 className="chart-title">By formula</h3>
          {view.formulas.map((one) => (
            <p key={one.called}>
              {one.called}: <code>{one.formula}</code> gives {say({ value: one.value, unit: one.unit })}; the simulation{" "}
              {say({ value: one.simulated, unit: one.unit })}
              {difference(one.value, one.simulated)}. <span className="quiet">{one.why}</span>
            </p>
          ))}
        </Box>
      )}
    </>
  );
});

const difference = (formula: number, simulated: number): string =>
  formula > 0 ? ` (${(100 * (simulated / formula - 1)).toFixed(1).replace("-", "−")} %)` : "";

function OverTheBattery({ states, tap }: { states: CircuitView["states"]; tap: number }) {
  const all = states.map((one) => (one.figures ? figuresTold(one.figures, tap) : []));
  const names = [...new Set(all.flatMap((rows) => rows.map(([name]) => name)))];
  return (
    <Box mt="3" overflowX="auto">
      <h3 className="chart-title">Over the whole battery</h3>
      <table className="plain">
        <thead>
          <tr>
            <td />
            {states.map((one) => (
              <th key={one.state}>{`${one.called}, ${say({ value: one.supply_v, unit: "V" })}`}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {names.map((name) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              {all.map((rows, at) => (
                <td key={states[at]!.state}>{rows.find(([known]) => known === name)?.[1] ?? "–"}</td>
              ))}
            </tr>
          ))}
          {states.some((one) => one.problem) && (
            <tr>
              <th scope="row">Does not run</th>
              {states.map((one) => (
                <td key={one.state}>{one.problem ?? ""}</td>
              ))}
            </tr>
          )}
        </tbody>
      </table>
    </Box>
  );
}
