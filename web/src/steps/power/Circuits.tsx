import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type Build, type CircuitFigures, type SourceState, answer, api, problemOf } from "../../api/client";
import type { EditorProps } from "../../build/editor";
import { called, capital } from "../../build/fields";
import { numberOf } from "../../build/useSolved";
import { Field } from "../../ui/Field";
import { FieldGrid } from "../../ui/fields";
import { saveFile } from "../../ui/save";
import { Card, Readout } from "../../ui/StepHeading";
import { say } from "../../units";

type Circuit = NonNullable<Build["circuits"]>[number];

/** What is told of a circuit, in the order in which people want it. */
const WORDS: readonly (readonly [keyof CircuitFigures, string, string])[] = [
  ["period_s", "Flashes every", "s"],
  ["on_s", "Of that on", "s"],
  ["duty", "Share of the time on", "1"],
  ["supply_mean_a", "Takes, on average", "A"],
  ["supply_peak_a", "At most", "A"],
  ["output_peak_a", "Its output gives", "A"],
  ["light_peak_a", "Through the lights", "A"],
  ["drop_v", "Keeps for itself", "V"],
  ["pin_a", "From the pin", "A"],
  ["heat_w", "Heat of its transistor", "W"],
  ["pwm_hz", "May be pulsed up to", "Hz"],
];

type Props = Pick<EditorProps, "build" | "state" | "selected" | "onSelect">;

/** The small circuits of a build: their parts by value, and what they do at the state that is looked at. */
export function Circuits({ build, state, selected, onSelect }: Props) {
  return (build.circuits ?? []).map((circuit, index) => (
    <CircuitCard key={circuit.id} build={build} circuit={circuit} index={index} state={state} on={selected === circuit.id} onSelect={onSelect} />
  ));
}

interface CardProps {
  build: Build;
  circuit: Circuit;
  index: number;
  state: SourceState;
  on: boolean;
  onSelect: (id: string | null) => void;
}

function CircuitCard({ build, circuit, index, state, on, onSelect }: CardProps) {
  const body = { document: build, circuit: circuit.id, state };
  const asked = useQuery({
    queryKey: ["circuit", numberOf(build), circuit.id, state],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/circuit", { body, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const netlist = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/circuit/netlist", { body, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${circuit.id}.cir`, "text/plain", text as string),
  });
  const waveforms = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/circuit/csv", { body, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${circuit.id} - waveforms.csv`, "text/csv", text as string),
  });
  const error = asked.error ?? netlist.error ?? waveforms.error;
  const known = Object.entries(circuit.parts).filter(([, value]) => typeof value === "number" || typeof value === "string" || typeof value === "boolean");
  return (
    <Card title={`${capital(called("CircuitKind", circuit.kind))}: ${circuit.id}`} selected={on} onFocus={() => onSelect(circuit.id)}>
      <FieldGrid>
        {known.map(([name]) => (
          <Field key={name} at={`/circuits/${index}/parts/${name}`} />
        ))}
      </FieldGrid>
      {error && (
        <Box role="alert" color="stop.fg" mt="2">
          {problemOf(error).detail}
        </Box>
      )}
      {asked.data && <Told figures={asked.data} tap={circuit.parts.tap ?? 1} />}
      <Box display="flex" gap="2" mt="3">
        <Button size="xs" minH="8" variant="outline" loading={waveforms.isPending} onClick={() => waveforms.mutate()}>
          Waveforms (CSV)
        </Button>
        <Button size="xs" minH="8" variant="outline" loading={netlist.isPending} onClick={() => netlist.mutate()}>
          SPICE
        </Button>
      </Box>
    </Card>
  );
}

const LIT = { none: "nothing shines", low: "the low one shines", "good+low": "both shine", good: "the good one shines" } as const;

function Told({ figures, tap }: { figures: CircuitFigures; tap: number }) {
  const rows = WORDS.flatMap(([key, words, unit]) => {
    const value = figures[key];
    return typeof value === "number" ? [[words, say({ value, unit })] as const] : [];
  });
  const held = Object.entries(figures.taps ?? {}).map(
    ([name, one]) =>
      [
        `With ${name.replace("tap", "")} of its resistors${name === `tap${tap}` ? ", as now" : ""}`,
        `${say({ value: one.half_s, unit: "s" })} to half, ${say({ value: one.tenth_s, unit: "s" })} to a tenth`,
      ] as const,
  );
  const bands = (figures.bands ?? []).map((band) => [`${band.from_v.toFixed(2)} to ${band.to_v.toFixed(2)} V`, LIT[band.lit as keyof typeof LIT]] as const);
  return <Readout rows={[...held, ...bands, ...rows]} />;
}
