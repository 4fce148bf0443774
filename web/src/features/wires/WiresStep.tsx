import { Box } from "@chakra-ui/react";
import type { Build, Feed, Gauge } from "../../api/client";
import { Choice, FieldGrid, NumberField } from "../../ui/fields";
import { Figure } from "../../ui/Figure";
import { AMP, COUNT, METRE, plain, share } from "../../units";
import { Card, Readout, StepHeading } from "../build/StepHeading";
import type { EditorProps } from "../build/editor";

const AWG = [30, 28, 26, 24, 22, 20, 18, 16, 14, 12, 10, 8, 6];
const MM2 = [0.14, 0.25, 0.34, 0.5, 0.75, 1, 1.5, 2.5, 4, 6, 10];
const nameOf = (gauge: Gauge) => ("awg" in gauge ? `${gauge.awg} AWG` : `${gauge.mm2} mm²`);
const GAUGES = new Map<string, Gauge>([...AWG.map((awg) => ({ awg })), ...MM2.map((mm2) => ({ mm2 }))].map((gauge) => [nameOf(gauge), gauge]));

const FUSES = [
  ["none", "no fuse"],
  ["blade", "blade fuse"],
  ["glass", "glass fuse"],
  ["ptc", "self-resetting"],
] as const;

interface Run {
  id: string;
  owner: string;
  feed: Feed;
  /** The same feed in another copy of the document. */
  find: (build: Build) => Feed;
}

function runs(build: Build): Run[] {
  return [
    ...build.junctions.map((one, i) => ({ id: one.id, owner: one.id, feed: one.feed, find: (b: Build) => b.junctions[i]!.feed })),
    ...build.converters.map((one, i) => ({ id: one.id, owner: one.id, feed: one.feed, find: (b: Build) => b.converters[i]!.feed })),
    ...build.lights.flatMap((one, i) =>
      one.feeds.map((feed, j) => ({ id: j ? `${one.id}#${j}` : one.id, owner: one.id, feed, find: (b: Build) => b.lights[i]!.feeds[j]! })),
    ),
  ];
}

/** Every run: length, thickness, fuse, switch and plugs. */
export function WiresStep(props: EditorProps) {
  const all = runs(props.build);
  return (
    <>
      <StepHeading title="Wires">Lengths one way, with slack where something folds, steers or is lifted.</StepHeading>
      {all.length === 0 && <Box color="fg.muted">Wires come with the first module or light. Start at step 2 or 3.</Box>}
      {all.map((run) => (
        <RunCard key={run.id} {...props} run={run} />
      ))}
    </>
  );
}

function RunCard({ build, edit, picture, report, scene, state, selected, onSelect, run }: EditorProps & { run: Run }) {
  const { feed } = run;
  const change = (write: (feed: Feed) => void, field: string) => edit((draft) => write(run.find(draft)), `${run.id}.${field}`);
  const reach = picture?.reaches.find((known) => known.id === run.owner);
  const facts = run.id === run.owner ? (["feed_a", "drop_v"] as const).flatMap((key) => reach?.facts.find((fact) => fact.key === key) ?? []) : [];
  const flow = report?.points.find((point) => point.scene === scene && point.state === state)?.feeds[run.id];
  const gauge = nameOf(feed.gauge);
  const sizes = [...new Set([...GAUGES.keys(), gauge])].map((name) => [name, name] as const);
  const source = feed.from === "source" ? (build.source.kind === "rail" ? "the rail" : "the battery") : feed.from;
  return (
    <Card title={`${source} → ${run.id}`} selected={selected === run.owner} onFocus={() => onSelect(run.owner)}>
      <FieldGrid>
        <NumberField label="Length, one way" unit={METRE} max={1000} value={feed.length_m} onChange={(v) => change((f) => void (f.length_m = v!), "length")} />
        <Choice label="Wire" value={gauge} options={sizes} onChange={(name) => change((f) => void (f.gauge = GAUGES.get(name) ?? f.gauge), "gauge")} />
        <Choice
          label="Fuse at its start"
          value={feed.fuse?.style ?? "none"}
          options={FUSES}
          onChange={(style) => change((f) => void (f.fuse = style === "none" ? null : { style, rating_a: f.fuse?.rating_a ?? 2 }), "fuse")}
        />
        {feed.fuse && (
          <NumberField
            label="Fuse rating"
            unit={AMP}
            min={0.01}
            max={1000}
            value={feed.fuse.rating_a}
            onChange={(v) => change((f) => f.fuse && (f.fuse.rating_a = v!), "rating")}
          />
        )}
        <NumberField
          label="Switch rating"
          hint={feed.switch ? undefined : "empty: no switch"}
          optional
          unit={AMP}
          min={0.01}
          max={1000}
          value={feed.switch?.rating_a ?? null}
          onChange={(v) => change((f) => void (f.switch = v === null ? null : { rating_a: v }), "switch")}
        />
        <NumberField label="Plugs" unit={COUNT} whole max={1000} value={feed.contacts} onChange={(v) => change((f) => void (f.contacts = v!), "contacts")} />
        <NumberField
          label="Circuits in its bundle"
          unit={COUNT}
          whole
          min={1}
          max={1000}
          value={feed.bundled}
          onChange={(v) => change((f) => void (f.bundled = v!), "bundled")}
        />
        <Choice
          label="Way back"
          value={feed.return}
          options={[
            ["wire", "a second wire"],
            ["frame", "the metal frame"],
          ]}
          onChange={(way) => change((f) => void (f.return = way), "return")}
        />
      </FieldGrid>
      <Readout
        rows={
          facts.length > 0
            ? facts.map(
                (fact) =>
                  [
                    fact.label,
                    <>
                      <Figure label={fact.label} text={plain(fact.value, fact.unit)} working={fact.working} />
                      {fact.used !== undefined && fact.used !== null && ` · ${share(fact.used)} used`}
                    </>,
                  ] as const,
              )
            : flow
              ? [
                  ["Current in its wire", plain(flow.current_a, "A")],
                  ["Lost in its wire, out and back", plain(flow.drop_v, "V")],
                ]
              : []
        }
      />
    </Card>
  );
}
