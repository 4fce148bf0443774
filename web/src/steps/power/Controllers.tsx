import { Box, Button, IconButton } from "@chakra-ui/react";
import { useState } from "react";
import type { Build } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { called, wordsOf } from "../../document/fields";
import { JOB } from "../../document/job";
import { useChange } from "../../document/useChange";
import { Field, Fields } from "../../job/Field";
import { Choice, FieldGrid } from "../../job/fields";
import { Icon } from "../../ui/icons";
import { Segments } from "../../ui/Segments";
import { PartCard } from "./PartCard";
import { Card } from "../../ui/StepHeading";
import { Pins } from "./Pins";

type Controller = NonNullable<Build["controllers"]>[number];
type Output = Controller["outputs"][number];
type DataOutput = Extract<Output, { kind: "data" }>;
type PinOutput = Extract<Output, { kind: "pin" }>;
type Props = Pick<EditorProps, "build" | "edit" | "replace" | "selected" | "onSelect"> & { suppliers: readonly (readonly [string, string])[] };

/** What tells lights what to do: boards, their pins, and the order of the pixels on them. */
export function Controllers(props: Props) {
  return (
    <>
      {(props.build.controllers ?? []).map((own, index) => (
        <ControllerCard key={own.id} {...props} own={own} index={index} />
      ))}
      <AddController {...props} />
    </>
  );
}

/** Whether it is switched from afar, and by what. */
function RemoteQuestion({ own, at, onChange }: { own: Controller; at: string; onChange: (remote: Controller["remote"]) => void }) {
  const kind = own.remote?.kind;
  return (
    <Box mt="3">
      <Segments
        quiet
        label="Remote control"
        value={kind ?? "none"}
        options={[["none", "no remote"], ...(wordsOf("RemoteKind") as [NonNullable<typeof kind>, string][])]}
        onChange={(next) => onChange(next === "none" ? null : { kind: next, idle_a: JOB.remotes[next]!.idle_a })}
      />
      {kind && (
        <Box mt="2">
          <Box color="fg.muted" fontSize="sm" mb="2">
            {JOB.remotes[kind]!.asks}
          </Box>
          <FieldGrid>
            <Field at={`${at}/remote/idle_a`} />
          </FieldGrid>
        </Box>
      )}
    </Box>
  );
}

function ControllerCard({ build, edit, replace, selected, onSelect, own, index }: Props & { own: Controller; index: number }) {
  const at = `/controllers/${index}`;
  const { remove } = useChange(build, replace);
  const change = (then: (outputs: Output[]) => void) => edit((draft) => then(draft.controllers![index]!.outputs));
  const pin = free("D", own.outputs);
  const used = new Set(build.controllers!.flatMap((one) => one.outputs.flatMap((output) => [...lightsOf(output)])));
  const left = build.lights.filter((light) => light.load.kind === "pixels" && !used.has(light.id));
  const single = build.lights.find((light) => light.load.kind !== "pixels" && !used.has(light.id));
  return (
    <PartCard words="ControllerKind" part={own} as="controller" selected={selected} onSelect={onSelect} onRemove={remove}>
      <Fields at={at} apart={["feed", "remote", "outputs"]}>
        <Field at={`${at}/kind`} />
      </Fields>
      <RemoteQuestion own={own} onChange={(remote) => edit((draft) => void (draft.controllers![index]!.remote = remote))} at={at} />
      {own.outputs.map((output, number) => (
        <Box key={output.pin} mt="3" borderTopWidth="1px" pt="2">
          <Box display="flex" justifyContent="space-between" alignItems="center">
            <b>{`${output.pin}: ${called("OutputKind", output.kind)}`}</b>
            <IconButton
              aria-label={`Remove output ${output.pin} of ${own.id}`}
              size="xs"
              minW="8"
              minH="8"
              variant="ghost"
              onClick={() => change((outputs) => void outputs.splice(number, 1))}
            >
              <Icon name="remove" />
            </IconButton>
          </Box>
          {output.kind === "data" ? (
            <Chain
              build={build}
              output={output}
              left={left.map((light) => light.id)}
              onChange={(then) => change((outputs) => then(outputs[number] as DataOutput))}
              at={`${at}/outputs/${number}`}
            />
          ) : (
            <Fields at={`${at}/outputs/${number}`} apart={["pin", "light"]}>
              <Choice
                label="Light"
                value={output.light}
                options={build.lights.map((light) => [light.id, light.id] as const)}
                onChange={(light) => change((outputs) => void ((outputs[number] as PinOutput).light = light))}
              />
            </Fields>
          )}
        </Box>
      ))}
      <Box display="flex" gap="2" mt="3" flexWrap="wrap">
        <Button
          size="xs"
          minH="8"
          variant="outline"
          disabled={left.length === 0}
          onClick={() => change((outputs) => void outputs.push({ pin, kind: "data", chain: [{ light: left[0]!.id, mounted: "along", wire_m: 0.2 }] }))}
        >
          Add a data pin
        </Button>
        <Button
          size="xs"
          minH="8"
          variant="outline"
          disabled={!single}
          onClick={() => change((outputs) => void outputs.push({ pin, kind: "pin", light: single!.id, through: "mosfet", ohm: 100, hz: null }))}
        >
          Add a light on a pin
        </Button>
      </Box>
    </PartCard>
  );
}

/** The first pin of this letter that nothing hangs on. */
function free(letter: string, outputs: readonly Output[]): string {
  let number = 1;
  while (outputs.some((output) => output.pin === `${letter}${number}`)) number++;
  return `${letter}${number}`;
}

const lightsOfLink = (link: DataOutput["chain"][number]): string[] => [...(link.light ? [link.light] : []), ...(link.copies ?? [])];
const lightsOf = (output: Output): string[] => (output.kind === "data" ? output.chain.flatMap(lightsOfLink) : [output.light]);

interface ChainProps {
  build: Build;
  output: DataOutput;
  /** Pixels that are on no chain. */
  left: readonly string[];
  onChange: (then: (output: DataOutput) => void) => void;
  at: string;
}

/** The pieces of a data pin in the order in which data passes them, each with its first and last number. */
function Chain({ build, output, left, onChange, at }: ChainProps) {
  const links = output.chain;
  const count = (id: string | undefined) => {
    const load = build.lights.find((light) => light.id === id)?.load;
    return load?.kind === "pixels" ? load.count : 0;
  };
  const move = (from: number, by: number) =>
    onChange((draft) => {
      const chain = draft.chain;
      const [one] = chain.splice(from, 1);
      chain.splice(from + by, 0, one!);
    });
  let next = 0;
  return (
    <>
      <Box as="ol" listStyleType="none" display="grid" gap="1" mt="1" aria-label={`Chain of ${output.pin}`}>
        {links.map((link, index) => {
          const lights = lightsOfLink(link);
          const own = count(lights[0]);
          const numbers = own > 0 ? `${next} to ${next + own - 1}` : "no pixels";
          next += own;
          return (
            <Box as="li" key={lights.join(" ")} display="flex" gap="1" alignItems="center" flexWrap="wrap">
              <Box flex="1 1 8rem">
                <b>{lights.join(" and ")}</b> <span className="quiet">{`${numbers}${lights.length > 1 ? ", the same on each" : ""}`}</span>
              </Box>
              {link.light && (
                <Button
                  size="xs"
                  minH="8"
                  variant="outline"
                  aria-label={`Turn ${link.light} round: ${link.mounted === "against" ? "against" : "along"} its place`}
                  onClick={() => onChange((draft) => void (draft.chain[index]!.mounted = link.mounted === "against" ? "along" : "against"))}
                >
                  {link.mounted === "against" ? "against ←" : "along →"}
                </Button>
              )}
              <IconButton
                aria-label={`${lights[0]} earlier`}
                size="xs"
                minW="8"
                minH="8"
                variant="ghost"
                disabled={index === 0}
                onClick={() => move(index, -1)}
              >
                ↑
              </IconButton>
              <IconButton
                aria-label={`${lights[0]} later`}
                size="xs"
                minW="8"
                minH="8"
                variant="ghost"
                disabled={index === links.length - 1}
                onClick={() => move(index, 1)}
              >
                ↓
              </IconButton>
              <IconButton
                aria-label={`Take ${lights[0]} off ${output.pin}`}
                size="xs"
                minW="8"
                minH="8"
                variant="ghost"
                disabled={links.length === 1}
                onClick={() => onChange((draft) => void draft.chain.splice(index, 1))}
              >
                <Icon name="remove" />
              </IconButton>
              <Box flex="0 0 7rem">
                <Field at={`${at}/chain/${index}/wire_m`} />
              </Box>
            </Box>
          );
        })}
      </Box>
      {left.map((id) => (
        <Box key={id} display="flex" gap="2" mt="2" flexWrap="wrap">
          <Button size="xs" minH="8" variant="outline" onClick={() => onChange((draft) => void draft.chain.push({ light: id, mounted: "along", wire_m: 0.2 }))}>
            {`Add ${id} behind it`}
          </Button>
          {links.length > 0 && count(id) === count(lightsOfLink(links.at(-1)!)[0]) && (
            <Button
              size="xs"
              minH="8"
              variant="outline"
              onClick={() =>
                onChange((draft) => {
                  const last = draft.chain.at(-1)!;
                  last.copies = [...(last.light ? [last.light] : []), ...(last.copies ?? []), id];
                  delete last.light;
                  delete last.mounted;
                })
              }
            >
              {`${id} as a copy of the last`}
            </Button>
          )}
        </Box>
      ))}
    </>
  );
}

/** A controller; a new one gets all pixels that have none. */
function AddController({ build, replace, onSelect, suppliers }: Props) {
  const [from, setFrom] = useState("source");
  const { add, busy } = useChange(build, replace);
  const place = suppliers.some(([id]) => id === from) ? from : "source";
  return (
    <Card title="Add a controller">
      <p className="quiet">A board that tells pixels what to show, or switches lights by its pins.</p>
      <Box display="flex" gap="3" alignItems="flex-end" mt="2">
        <Box flex="1">
          <Choice label="Powered from" value={place} options={suppliers} onChange={setFrom} />
        </Box>
        <Button
          size="sm"
          colorPalette="lantern"
          loading={busy}
          onClick={() => add({ kind: "controller", from: place }, { onSuccess: (document) => onSelect(document.controllers?.at(-1)?.id ?? null) })}
        >
          Add controller
        </Button>
      </Box>
      <Pins />
    </Card>
  );
}
