import { Box, Button, IconButton } from "@chakra-ui/react";
import { useState } from "react";
import type { Wish, Build, Converter } from "../../api/client";
import { useParts } from "../../api/reference";
import { supplierName, suppliersOf } from "../../document/job";
import { useChange } from "../../document/useChange";
import { Choices, Helper } from "../../job/Choices";
import { Fields, Like } from "../../job/Field";
import { Choice } from "../../job/fields";
import { Figure, Term } from "../../job/Figure";
import { read } from "../../units";
import { Circuits } from "./Circuits";
import { Controllers } from "./Controllers";
import { PartCard } from "./PartCard";
import { Card, Readout, StepHeading } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";
import { Icon } from "../../ui/icons";

/** How does the battery's voltage become what each light wants? */
export function PowerStep(props: EditorProps) {
  const { build, edit } = props;
  const suppliers = suppliersOf(build).map((id): [string, string] => [id, supplierName(build, id)]);
  return (
    <>
      <StepHeading title="Power">How the battery's voltage becomes what each light wants.</StepHeading>
      {build.converters.map((converter, index) => (
        <ConverterCard key={converter.id} {...props} converter={converter} index={index} />
      ))}
      {build.lights.length > 0 && (
        <Card title="Which supply powers which light">
          {build.lights.map((light, index) => (
            <Box key={light.id} mb="3">
              <Choice
                label={light.id}
                value={light.feeds[0]!.from}
                options={[...suppliers, ...drivenBy(build, light.id)]}
                onChange={(from) =>
                  edit((draft) => {
                    for (const feed of draft.lights[index]!.feeds) feed.from = from;
                    // A circuit drives what hangs on it, and nothing else.
                    for (const circuit of draft.circuits ?? []) if (circuit.id !== from) circuit.drives = circuit.drives.filter((id) => id !== light.id);
                  })
                }
              />
              <Helper title="Ways to power it">
                {() => (
                  <Choices
                    build={build}
                    question={{ kind: "supply", light: light.id }}
                    figures={["in_a", "heat_w", "efficiency", "rated_a"]}
                    onTake={props.replace}
                  />
                )}
              </Helper>
            </Box>
          ))}
        </Card>
      )}
      <Circuits {...props} />
      <Controllers {...props} suppliers={suppliers} />
      <AddConverter {...props} suppliers={suppliers} />
      <Junctions {...props} suppliers={suppliers} />
    </>
  );
}

/** The circuit that a light hangs on. */
const drivenBy = (build: Build, light: string) =>
  (build.circuits ?? []).filter((circuit) => circuit.drives.includes(light)).map((circuit) => [circuit.id, circuit.id] as [string, string]);

/** What hangs on a converter, by name. */
function fedBy(build: Build, id: string): string {
  const parts = [...build.junctions, ...build.converters, ...(build.circuits ?? [])].filter((one) => one.feed.from === id);
  const lights = build.lights.filter((light) => light.feeds.some((feed) => feed.from === id));
  return [...parts, ...lights].map((one) => one.id).join(", ") || "nothing yet";
}

function ConverterCard({ build, replace, picture, state, selected, onSelect, converter, index }: EditorProps & { converter: Converter; index: number }) {
  const reach = picture?.reaches.find((known) => known.id === converter.id);
  const fact = (key: string) => reach?.facts.find((known) => known.key === key);
  const pair = (volts: string, amps: string) => {
    const [v, a] = [fact(volts), fact(amps)];
    if (!v || !a) return "–";
    return (
      <>
        <Figure label={v.label} text={read(v)} working={v.working} /> · <Figure label={a.label} text={read(a)} working={a.working} />
      </>
    );
  };
  const heat = fact("loss_w");
  const { remove } = useChange(build, replace);
  const at = `/converters/${index}`;
  return (
    <PartCard words="ConverterKind" part={converter} as="converter" selected={selected} onSelect={onSelect} onRemove={remove}>
      <Fields at={at} first={["set_v", "set_a", "max_out_a"]} apart={["feed"]} />
      <Readout
        rows={[
          ["Feeds", fedBy(build, converter.id)],
          [`In, ${state}`, pair("in_v", "in_a")],
          ["Out", pair("out_v", "out_a")],
          ["Heat", heat ? <Figure label={heat.label} text={read(heat)} working={heat.working} /> : "–"],
        ]}
      />
      <Box mt="2" fontSize="xs" color="fg.muted">
        Set it with a meter <b>before</b> a light is connected.
      </Box>
    </PartCard>
  );
}

/** A converter from the parts drawer; the usual step-down is the first on the list. */
function AddConverter({ build, replace, onSelect, suppliers }: EditorProps & { suppliers: readonly (readonly [string, string])[] }) {
  const parts = useParts(build.parts).filter((part) => part.what.kind === "converter");
  const [volts, setVolts] = useState(12);
  const [chosen, setChosen] = useState("");
  const [from, setFrom] = useState("source");
  const part = parts.find((known) => known.id === chosen);
  const { add, busy } = useChange(build, replace);
  const wish: Wish = part ? { kind: "converter", part, from } : { kind: "step_down", set_v: volts };
  const onAdd = () => add(wish, { onSuccess: (document) => onSelect(document.converters.at(-1)?.id ?? null) });
  return (
    <Card title="Add a converter">
      <Choice
        label="Module"
        term="step-down"
        value={part ? chosen : ""}
        options={[["", "Step-down converter, 3 A"], ...parts.map((known) => [known.id, known.name] as const)]}
        onChange={setChosen}
      />
      <Box display="flex" gap="3" alignItems="flex-end" mt="3">
        <Box flex="1">
          {part ? (
            <Choice label="Powered from" value={from} options={suppliers} onChange={setFrom} />
          ) : (
            <Like field="StepDown.set_v" label="Output voltage" value={volts} onChange={(v) => setVolts(v!)} />
          )}
        </Box>
        <Button size="sm" colorPalette="lantern" loading={busy} onClick={onAdd}>
          Add converter
        </Button>
      </Box>
    </Card>
  );
}

/** Points where one wire becomes several. */
function Junctions({ build, edit, replace, suppliers }: EditorProps & { suppliers: readonly (readonly [string, string])[] }) {
  const { add, remove } = useChange(build, replace);
  return (
    <Card
      title={
        <Box display="flex" alignItems="center">
          Terminal blocks <Term word="junction" />
        </Box>
      }
    >
      {build.junctions.map((one, index) => (
        <Box key={one.id} display="flex" gap="2" alignItems="flex-end" mb="2">
          <Box flex="1">
            <Choice
              label={one.id}
              value={one.feed.from}
              options={suppliers.filter(([id]) => id !== one.id)}
              onChange={(from) => edit((draft) => void (draft.junctions[index]!.feed.from = from))}
            />
          </Box>
          <IconButton aria-label={`Remove ${one.id}`} size="xs" minW="8" minH="9" variant="ghost" onClick={() => remove({ kind: "junction", id: one.id })}>
            <Icon name="remove" />
          </IconButton>
        </Box>
      ))}
      <Button size="sm" variant="outline" onClick={() => add({ kind: "junction", from: "source" })}>
        Add a block
      </Button>
    </Card>
  );
}
