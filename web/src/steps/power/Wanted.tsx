import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { memo, useState } from "react";
import { type Build, type CircuitChoice, answer, api, problemOf } from "../../api/client";
import { NumberField } from "../../job/fields";
import { Prose } from "../../ui/Prose";
import { JOB } from "../../document/job";
import { say, unitOf, inOwn } from "../../units";
import { figuresTold } from "./told";

type Circuit = NonNullable<Build["circuits"]>[number];
interface Props {
  build: Build;
  replace: (document: Build) => void;
  circuit: Circuit;
  index: number;
}

/** What is wanted first; standard parts that give it, ranked, with what they really give. */
export const Wanted = memo(function Wanted({ build, replace, circuit, index }: Props) {
  const wishes = JOB.wishes[circuit.kind] ?? [];
  const [wanted, setWanted] = useState<Record<string, number | null>>(() => Object.fromEntries(wishes.map((wish) => [wish.field, wish.begins])));
  const find = useMutation({
    mutationFn: () => {
      return answer(api.POST("/api/v1/circuit/choose", { body: { document: build, circuit: circuit.id, wanted } }));
    },
  });
  const take = (choice: CircuitChoice) =>
    replace({ ...build, circuits: build.circuits!.map((one, at) => (at === index ? ({ ...one, kind: choice.kind, parts: choice.parts } as Circuit) : one)) });
  return (
    <Box as="form" className="wanted" onSubmit={(event) => (event.preventDefault(), find.mutate())}>
      <Box display="flex" gap="3" alignItems="flex-end" flexWrap="wrap">
        {wishes.map(({ field, label, unit }) => (
          <Box key={field} flex="1 1 8rem">
            <NumberField
              label={label}
              value={wanted[field] ?? null}
              unit={unitOf(unit === "1" ? "%" : unit)}
              optional
              open
              max={unit === "1" ? 1 : 1000}
              onChange={(value) => setWanted({ ...wanted, [field]: value })}
            />
          </Box>
        ))}
        <Button type="submit" size="sm" colorPalette="lantern" loading={find.isPending}>
          Find parts
        </Button>
      </Box>
      {find.error && (
        <Box role="alert" color="stop.fg" mt="2">
          <Prose text={problemOf(find.error).detail} />
        </Box>
      )}
      {find.data?.length === 0 && <p>No standard parts come near; ask for something slower or faster.</p>}
      {find.data && find.data.length > 0 && (
        <Box as="ul" listStyleType="none" mt="3" display="grid" gap="2">
          {find.data.map((choice) => (
            <Box as="li" key={choice.title} className="way" display="flex" gap="3" alignItems="center" justifyContent="space-between">
              <Box minW="0">
                <b>{inOwn(choice.title)}</b>
                <p className="quiet">{choice.states.map((one) => `${one.called}: ${gives(choice, one)}`).join("; ")}</p>
              </Box>
              <Button size="xs" minH="8" variant="outline" aria-label={`Take ${choice.title}`} onClick={() => take(choice)}>
                Take
              </Button>
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
});

/** What a choice really gives at a state, in a few words. */
function gives(choice: CircuitChoice, at: CircuitChoice["states"][number]): string {
  const figures = at.figures;
  if (!figures) return at.problem ? "does not run" : "–";
  if (figures.period_s != null) return `every ${say({ value: figures.period_s, unit: "s" })}, on ${say({ value: figures.duty ?? 0, unit: "1" })} of the time`;
  const tap = choice.kind === "hold_up" ? (choice.parts.tap ?? 1) : 1;
  const held = figures.taps?.[`tap${tap}`];
  if (held) return `${say({ value: held.half_s, unit: "s" })} to half, ${say({ value: held.tenth_s, unit: "s" })} to a tenth`;
  const both = figures.bands?.find((band) => band.lit === "good+low");
  if (both) return `charge now below ${both.from_v.toFixed(2)} V, good above ${both.to_v.toFixed(2)} V`;
  return figuresTold(figures, tap)
    .slice(0, 2)
    .map(([name, value]) => `${name.toLowerCase()} ${value}`)
    .join(", ");
}
