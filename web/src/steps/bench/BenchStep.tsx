import { Box, Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { type Build, type Pinch, type Probed, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import type { EditorProps } from "../../document/editor";
import { STATE_PHRASES } from "../../document/steps";
import { Choices } from "../../job/Choices";
import { Choice } from "../../job/fields";
import { Prose } from "../../ui/Prose";
import { Segments } from "../../ui/Segments";
import { Card, StepHeading } from "../../ui/StepHeading";
import { onMeter, say } from "../../units";
import { Instruments } from "./Instruments";
import type { Pinching } from "./usePinch";
import { LOOKS } from "./words";
import { FaultList } from "./FaultList";
import { MeterDisplay } from "./MeterDisplay";
import { Points, byPart } from "./Points";
import { Practice } from "./Practice";
import type { Practising } from "./usePractice";
import type { BenchView } from "./views";

interface Props extends EditorProps {
  view: BenchView;
  onView: (view: BenchView) => void;
  fault: string | null;
  onFault: (fault: string | null) => void;
  probed: Probed | undefined;
  pinching: Pinching;
  practising: Practising;
  id: number;
  /** Why nothing can be read. */
  trouble: string | null;
}

/** The bench: a meter on any point, faults to put in, a wire to pinch, and the list of checks. */
export function BenchStep(props: Props) {
  const { view, onView } = props;
  return (
    <>
      <StepHeading title="Bench">Try it here first: what a meter will read, and what a mistake would do.</StepHeading>
      <Box mb="4">
        <Segments
          label="On the bench"
          quiet
          value={view}
          options={[
            ["meter", "Meter"],
            ["pinch", "Pinch"],
            ["list", "Check list"],
            ["practice", "Practice"],
          ]}
          onChange={onView}
        />
      </Box>
      {view === "meter" && <Meter {...props} />}
      {view === "pinch" && <PinchView {...props} />}
      {view === "practice" && (
        <Practice id={props.id} practising={props.practising} build={props.build} scene={props.scene} state={props.state} selected={props.selected} />
      )}
      {view === "list" && (
        <Box color="fg.muted">
          Go down the list with a meter in hand: first without power, then a little power, then all of it. Type what you read; each reading is kept in the
          journal. Set <b>battery at</b> above to how full yours is.
        </Box>
      )}
    </>
  );
}

const KINDS = [
  ["volts", "V"],
  ["amps", "A"],
  ["ohms", "Ω"],
] as const;

const UNITS = { volts: "V", amps: "A", ohms: "ohm" };

function Meter({ build, scene, state, selected, onSelect, fault, onFault, probed, trouble }: Props) {
  const [kind, setKind] = useState<(typeof KINDS)[number][0]>("volts");
  const [red, setRed] = useState("source+");
  const [black, setBlack] = useState("source-");
  const [run, setRun] = useState("source");
  const points = useMemo(() => (probed ? Object.keys(probed.volts) : []), [probed]);
  const feeds = probed ? ["source", ...Object.keys(probed.amps)] : [];
  const volts = probed && red in probed.volts && black in probed.volts ? probed.volts[red]! - probed.volts[black]! : undefined;
  const amps = probed && (run === "source" ? probed.source_a : probed.amps[run]);
  // With the power off, as it has to be: what lies between the probes and what they drive through it is the core's to say.
  const dead = useQuery({
    queryKey: ["ohms", numberOf(build), scene, state, fault, red, black],
    queryFn: ({ signal }) =>
      answer(api.POST("/api/v1/probe", { body: { document: build, scene, state, faults: fault ? [fault] : [], ohms: [[red, black]] }, signal })),
    enabled: kind === "ohms" && scene !== "",
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const ohms = dead.data?.ohms[0];
  const refused = kind === "ohms" ? dead.error && problemOf(dead.error).detail : trouble;
  const value = kind === "volts" ? volts : kind === "amps" ? amps : ohms;
  const shown = value === undefined ? "…" : value === null ? "open" : onMeter({ value, unit: UNITS[kind] });
  const touch = (id: string) => {
    const has = (point: string) => points.includes(point);
    setRed([`${id}:to+`, `${id}+`, `${id}:out+`].find(has) ?? red);
    setBlack([`${id}:to-`, `${id}-`, `${id}:out-`].find(has) ?? black);
  };
  // What is pointed at in the picture, the river or the diagram is where the probes go.
  const [pointed, setPointed] = useState<string | null>(null);
  if (probed && selected !== pointed) {
    setPointed(selected);
    if (selected && kind !== "amps") touch(selected);
    if (selected && kind === "amps" && feeds.includes(selected)) setRun(selected);
  }
  return (
    <>
      <Card title="Meter" aside={<Segments label="Set to" quiet value={kind} options={KINDS} onChange={setKind} />}>
        <MeterDisplay>{refused ? "–" : shown}</MeterDisplay>
        {refused && (
          <Box role="alert" color="stop.fg" mb="3">
            <Prose text={refused} />
          </Box>
        )}
        {kind === "ohms" && (
          <Box color="fg.muted" fontSize="xs" mb="3">
            With the power off and every switch on. On a live circuit the figure would mean nothing.
          </Box>
        )}
        {kind !== "amps" ? (
          <Box display="grid" gap="3">
            <Points label="Red probe on" value={red} points={points} words={probed?.words ?? {}} onChange={setRed} />
            <Points label="Black probe on" value={black} points={points} words={probed?.words ?? {}} onChange={setBlack} />
          </Box>
        ) : (
          <Choice
            label="In line, or clamped around"
            value={run}
            options={feeds.map((id) => [id, id === "source" ? "the battery's lead" : id] as const)}
            onChange={setRun}
          />
        )}
        <Box color="fg.muted" fontSize="xs" mt="3">
          Click a part in the picture or a reach of the river, and the {kind === "amps" ? "meter goes" : "probes go"} there.
        </Box>
      </Card>
      <FaultCard
        build={build}
        fault={fault}
        onFault={onFault}
        onSelect={(id) => {
          // A fault shows its part; the probes stay where they are.
          setPointed(id);
          onSelect(id);
        }}
        probed={probed}
      />
      <Instruments build={build} scene={scene} state={state} fault={fault} />
      <Box color="fg.muted" fontSize="xs" mt="3">
        With a real meter: volts across, amps in line. Never amps across a battery, never ohms with the power on.
      </Box>
    </>
  );
}

/** A fault to put in, and what a person then sees. */
function FaultCard({
  build,
  fault,
  onFault,
  onSelect,
  probed,
}: {
  build: Build;
  fault: string | null;
  onFault: (fault: string | null) => void;
  onSelect: (id: string | null) => void;
  probed: Probed | undefined;
}) {
  const all = useQuery({
    queryKey: ["faults", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/faults", { body: { document: build }, signal })),
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const groups = useMemo(() => byPart(all.data ?? []), [all.data]);
  return (
    <Card
      title="What if something is wrong?"
      aside={
        fault && (
          <Button size="xs" minH="8" variant="outline" onClick={() => onFault(null)}>
            Take it out
          </Button>
        )
      }
    >
      <FaultList
        label="Put a fault in"
        none="nothing is wrong"
        value={fault ?? ""}
        groups={groups}
        onChange={(next) => {
          onFault(next || null);
          if (next) onSelect(next.split("@")[1]!.replace(/[:/=.@].*$/, ""));
        }}
      />
      {fault && probed && (
        <Box mt="3" aria-live="polite">
          {probed.blown.map((feed) => (
            <Box key={feed} color="fix.fg">
              ! The fuse of <b>{feed}</b> has opened.
            </Box>
          ))}
          {probed.tripped.map((part) => (
            <Box key={part} color="fix.fg">
              ! <b>{part}</b> has given up.
            </Box>
          ))}
          {probed.hot.map((feed) => (
            <Box key={feed} color="stop.fg" fontWeight="bold">
              ✕ The wire of {feed} gets hot, and nothing stops it.
            </Box>
          ))}
          <Box as="ul" listStyleType="none" mt="1">
            {probed.lights.map((look) => (
              <Box as="li" key={look.light} display="flex" justifyContent="space-between" gap="3">
                <span>{look.light}</span>
                <Box as="span" color={look.symptom === "fine" ? "fg.muted" : "fix.fg"}>
                  {LOOKS[look.symptom] ?? look.symptom}
                  {look.dark_from ? ` from ${look.dark_from} on` : ""}
                </Box>
              </Box>
            ))}
          </Box>
        </Box>
      )}
    </Card>
  );
}

/** A wire pinched anywhere along its way. */
function PinchView({ build, replace, pinching }: Props) {
  const { feeds, feed, at, put, all, here: pinch, problem } = pinching;
  if (feed === "") return <Box color="fg.muted">There is no wire yet. Start at step 3, Lights.</Box>;
  return (
    <>
      <Card title="Pinch a wire">
        <Choice label="Which" value={feed} options={feeds.map((id) => [id, id] as const)} onChange={(id) => put(id, at)} />
        <Box className="dial" mt="3">
          <label htmlFor="pinch-at">Where along it</label>
          <output>{at === 0 ? "at its supply" : at === 1 ? "at its end" : `${Math.round(100 * at)} %`}</output>
          <input id="pinch-at" type="range" min="0" max="1" step="0.01" value={at} onChange={(event) => put(feed, Number(event.target.value))} />
        </Box>
        <Box color="fg.muted" fontSize="xs" mt="2">
          Or drag the mark along any reach of the river.
        </Box>
      </Card>
      {problem && (
        <Box role="alert" color="stop.fg">
          {problem.detail}
        </Box>
      )}
      {pinch && <PinchCard pinch={pinch} />}
      {pinch && pinch.fuse === null && (
        <Card title="A fuse that would open">
          <Choices build={build} question={{ kind: "fuse", feed }} figures={["rating_a"]} onTake={replace} />
        </Card>
      )}
      {all.length > 1 && (
        <Box as="table" className="data" mt="3">
          <caption>At every state of the battery</caption>
          <thead>
            <tr>
              <th scope="col">battery</th>
              <th scope="col">current</th>
              <th scope="col">opens within</th>
              <th scope="col">wire</th>
            </tr>
          </thead>
          <tbody>
            {all.map((one) => (
              <tr key={one.state}>
                <th scope="row">{one.state}</th>
                <td>{say({ value: one.fault_a, unit: "A" })}</td>
                <td>{one.opens_s ? say({ value: one.opens_s[1]!, unit: "s" }) : "never"}</td>
                <td>{one.survives ? "survives" : "burns"}</td>
              </tr>
            ))}
          </tbody>
        </Box>
      )}
    </>
  );
}

function PinchCard({ pinch }: { pinch: Pinch }) {
  const bad = pinch.fuse === null && !pinch.survives;
  return (
    <Box
      as="article"
      className="card"
      aria-live="polite"
      borderColor={bad ? "stop.solid" : undefined}
      borderWidth={bad ? "3px" : undefined}
      bg={bad ? "stop.bg" : undefined}
    >
      <Box fontSize="4xl" fontWeight="bold" lineHeight="1.1">
        {say({ value: pinch.fault_a, unit: "A" })}
      </Box>
      <Box color="fg.muted" mb="2">
        would flow {STATE_PHRASES[pinch.state]}
      </Box>
      {pinch.fuse !== null && pinch.fuse !== undefined && pinch.opens_s ? (
        <Box>
          The fuse of <b>{pinch.fuse}</b> opens after {say({ value: pinch.opens_s[0]!, unit: "s" })} to {say({ value: pinch.opens_s[1]!, unit: "s" })}.
        </Box>
      ) : (
        <Box fontSize={bad ? "xl" : undefined} fontWeight="bold" color={bad ? "stop.fg" : "fix.fg"}>
          {bad ? "✕ Nothing stops it. The wire burns." : "! No fuse opens. The wire carries it, and so does whatever it touches."}
        </Box>
      )}
      {!bad && (
        <Box color={pinch.survives ? "good.fg" : "stop.fg"} fontWeight={pinch.survives ? undefined : "bold"}>
          {pinch.survives ? "✓ The wire survives" : "✕ The wire may be spoilt"}: {pinch.hottest} reaches {Math.round(pinch.peak_c)} °C.
        </Box>
      )}
      <Warming pinch={pinch} />
    </Box>
  );
}

const WIDTH = 280;
const HEIGHT = 90;

/** Temperature of the thinnest wire over time, by factors of ten. */
function Warming({ pinch }: { pinch: Pinch }) {
  const first = Math.log10(pinch.warming[0]!.time_s);
  const last = Math.log10(pinch.warming.at(-1)!.time_s);
  const top = Math.max(190, ...pinch.warming.map((one) => one.temperature_c));
  const x = (time: number) => ((Math.log10(time) - first) / (last - first)) * WIDTH;
  const y = (celsius: number) => HEIGHT - (celsius / top) * HEIGHT;
  const line = pinch.warming.map((one) => `${x(one.time_s).toFixed(1)},${y(one.temperature_c).toFixed(1)}`).join(" ");
  const end = pinch.warming.at(-1)!;
  return (
    <figure style={{ marginTop: "0.75rem" }}>
      <svg
        viewBox={`-4 -6 ${WIDTH + 8} ${HEIGHT + 24}`}
        role="img"
        aria-label={`The wire of ${pinch.hottest} warms to ${Math.round(end.temperature_c)} °C within ${say({ value: end.time_s, unit: "s" })}`}
        width="100%"
      >
        <line x1="0" x2={WIDTH} y1={y(160)} y2={y(160)} stroke="currentColor" strokeDasharray="3 4" opacity="0.5" />
        <text x={WIDTH} y={y(160) - 3} fontSize="10" fill="currentColor" opacity="0.75" textAnchor="end">
          160 °C: insulation fails
        </text>
        <polyline points={line} fill="none" stroke="var(--chakra-colors-lantern-solid)" strokeWidth="2.5" />
        <line x1="0" x2={WIDTH} y1={HEIGHT} y2={HEIGHT} stroke="currentColor" opacity="0.4" />
        <text x="0" y={HEIGHT + 14} fontSize="10" fill="currentColor" opacity="0.75">
          {say({ value: pinch.warming[0]!.time_s, unit: "s" })}
        </text>
        <text x={WIDTH} y={HEIGHT + 14} fontSize="10" fill="currentColor" opacity="0.75" textAnchor="end">
          {say({ value: end.time_s, unit: "s" })}
        </text>
      </svg>
    </figure>
  );
}
