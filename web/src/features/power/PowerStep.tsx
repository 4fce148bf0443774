import { Box, Button, IconButton } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type Converter, answer, api, problemOf } from "../../api/client";
import { useParts, useReference } from "../../api/reference";
import { Choices, Helper } from "../../ui/Choices";
import { Choice, FieldGrid, NumberField } from "../../ui/fields";
import { Figure, Term } from "../../ui/Figure";
import { AMP, MILLIAMP, PERCENT, VOLT, WATT, of, read } from "../../units";
import { Card, Readout, StepHeading } from "../build/StepHeading";
import type { EditorProps } from "../build/editor";
import { Icon } from "../../ui/icons";

const KINDS: Record<Converter["kind"], string> = {
  buck: "Step-down",
  boost: "Step-up",
  buck_boost: "Step-up-down",
  linear: "Linear regulator",
  current_driver: "Constant-current driver",
};

/** How does the battery's voltage become what each light wants? */
export function PowerStep(props: EditorProps) {
  const { build, edit } = props;
  const suppliers = [["source", "the battery"], ...build.converters.map((one) => [one.id, one.id]), ...build.junctions.map((one) => [one.id, one.id])] as [
    string,
    string,
  ][];
  return (
    <>
      <StepHeading title="Power">How the battery's voltage becomes what each light wants.</StepHeading>
      {build.converters.map((converter, index) => (
        <ConverterCard key={converter.id} {...props} converter={converter} index={index} />
      ))}
      {build.lights.length > 0 && (
        <Card title="What feeds what">
          {build.lights.map((light, index) => (
            <Box key={light.id} mb="3">
              <Choice
                label={light.id}
                value={light.feeds[0]!.from}
                options={suppliers}
                onChange={(from) =>
                  edit((draft) => {
                    for (const feed of draft.lights[index]!.feeds) feed.from = from;
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
      <AddConverter {...props} suppliers={suppliers} />
      <Junctions {...props} suppliers={suppliers} />
    </>
  );
}

/** What hangs on a converter, by name. */
function fedBy(build: Build, id: string): string {
  const parts = [...build.junctions, ...build.converters].filter((one) => one.feed.from === id);
  const lights = build.lights.filter((light) => light.feeds.some((feed) => feed.from === id));
  return [...parts, ...lights].map((one) => one.id).join(", ") || "nothing yet";
}

function ConverterCard({ build, edit, picture, state, selected, onSelect, converter, index }: EditorProps & { converter: Converter; index: number }) {
  const change = (write: (converter: Converter) => void, field: string) => edit((draft) => write(draft.converters[index]!), `${converter.id}.${field}`);
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
  const remove = () =>
    edit((draft) => {
      const [gone] = draft.converters.splice(index, 1);
      if (!gone) return;
      // What it fed falls back on what fed it.
      const feeds = [...draft.lights.flatMap((light) => light.feeds), ...draft.converters.map((one) => one.feed), ...draft.junctions.map((one) => one.feed)];
      for (const feed of feeds) if (feed.from === gone.id) feed.from = gone.feed.from;
    });
  const practice = useReference()?.practice;
  return (
    <Card
      title={`${KINDS[converter.kind]}: ${converter.id}`}
      selected={selected === converter.id}
      onFocus={() => onSelect(converter.id)}
      aside={
        <IconButton aria-label={`Remove ${converter.id}`} title="Remove" size="xs" minW="8" minH="8" variant="ghost" onClick={remove}>
          <Icon name="remove" />
        </IconButton>
      }
    >
      <FieldGrid>
        {converter.kind === "current_driver" ? (
          <NumberField
            label="Set to"
            unit={MILLIAMP}
            min={0.1}
            max={1e6}
            value={(converter.set_a ?? 0) * 1e3}
            onChange={(v) => change((c) => void (c.set_a = v! / 1e3), "set")}
          />
        ) : (
          <NumberField
            label="Set to"
            unit={VOLT}
            min={0.1}
            max={1000}
            value={converter.set_v ?? 0}
            onChange={(v) => change((c) => void (c.set_v = v), "set")}
          />
        )}
        <NumberField
          label="Output limit"
          unit={AMP}
          min={0.001}
          max={10000}
          value={converter.max_out_a}
          onChange={(v) => change((c) => void (c.max_out_a = v!), "out")}
        />
        {["buck", "linear", "current_driver"].includes(converter.kind) && (
          <NumberField
            label="Drop-out"
            term="drop-out"
            unit={VOLT}
            max={100}
            value={converter.dropout_v}
            onChange={(v) => change((c) => void (c.dropout_v = v!), "dropout")}
          />
        )}
        <NumberField
          label="Input limit"
          hint={converter.max_in_a == null ? "empty: none known" : undefined}
          unit={AMP}
          optional
          min={0.001}
          max={10000}
          value={converter.max_in_a ?? null}
          onChange={(v) => change((c) => void (c.max_in_a = v), "inlimit")}
        />
        <NumberField
          label="Input from"
          unit={VOLT}
          max={converter.max_in_v}
          value={converter.min_in_v}
          onChange={(v) => change((c) => void (c.min_in_v = v!), "min")}
        />
        <NumberField
          label="Input up to"
          unit={VOLT}
          min={Math.max(converter.min_in_v, 0.1)}
          max={1000}
          value={converter.max_in_v}
          onChange={(v) => change((c) => void (c.max_in_v = v!), "max")}
        />
        {typeof converter.efficiency === "number" && (
          <NumberField
            label="Efficiency"
            term="efficiency"
            unit={PERCENT}
            min={1}
            max={100}
            value={converter.efficiency * 100}
            onChange={(v) => change((c) => void (c.efficiency = v! / 100), "eff")}
          />
        )}
        <NumberField
          label="Heat it gets rid of"
          hint={
            converter.max_loss_w != null
              ? undefined
              : converter.kind === "linear" && practice
                ? `empty: ${read(of(practice, "linear_max_loss_w"))}, bare`
                : "empty: not known"
          }
          unit={WATT}
          optional
          min={0.01}
          max={1e6}
          value={converter.max_loss_w ?? null}
          onChange={(v) => change((c) => void (c.max_loss_w = v), "heat")}
        />
        <NumberField
          label="Idle current"
          term="idle current"
          unit={MILLIAMP}
          max={1e6}
          value={converter.idle_a * 1e3}
          onChange={(v) => change((c) => void (c.idle_a = v! / 1e3), "idle")}
        />
      </FieldGrid>
      <Readout
        rows={[
          ["Feeds", fedBy(build, converter.id)],
          [`In, ${state}`, pair("in_v", "in_a")],
          ["Out", pair("out_v", "out_a")],
          ...(Array.isArray(converter.efficiency)
            ? [["Efficiency", converter.efficiency.map((point) => `${read(of(point, "efficiency"))} at ${read(of(point, "vin_v"))}`).join(", ")] as const]
            : []),
          ["Heat", heat ? <Figure label={heat.label} text={read(heat)} working={heat.working} /> : "–"],
        ]}
      />
      <Box mt="2" fontSize="xs" color="fg.muted">
        Set it with a meter <b>before</b> a light is connected.
      </Box>
    </Card>
  );
}

/** A converter from the parts drawer; the usual step-down is the first on the list. */
function AddConverter({ build, replace, onSelect, suppliers }: EditorProps & { suppliers: readonly (readonly [string, string])[] }) {
  const parts = useParts(build.parts).filter((part) => part.what.kind === "converter");
  const [volts, setVolts] = useState(12);
  const [chosen, setChosen] = useState("");
  const [from, setFrom] = useState("source");
  const part = parts.find((known) => known.id === chosen);
  const add = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/add", {
          body: { document: build, part: part ? { kind: "converter", part, from } : { kind: "step_down", set_v: volts } },
        }),
      ),
    onSuccess: (document) => {
      replace(document);
      onSelect(document.converters.at(-1)?.id ?? null);
    },
  });
  return (
    <Card title="Add a module">
      <Choice
        label="Module"
        term="step-down"
        value={part ? chosen : ""}
        options={[["", "Step-down module, 3 A"], ...parts.map((known) => [known.id, known.name] as const)]}
        onChange={setChosen}
      />
      <Box display="flex" gap="3" alignItems="flex-end" mt="3">
        <Box flex="1">
          {part ? (
            <Choice label="Fed from" value={from} options={suppliers} onChange={setFrom} />
          ) : (
            <NumberField label="Output voltage" unit={VOLT} min={0.8} max={100} value={volts} onChange={(v) => setVolts(v!)} />
          )}
        </Box>
        <Button size="sm" colorPalette="lantern" loading={add.isPending} onClick={() => add.mutate()}>
          Add module
        </Button>
      </Box>
      {add.error && (
        <Box role="alert" mt="2" color="stop.fg">
          {problemOf(add.error).detail}
        </Box>
      )}
    </Card>
  );
}

/** Points where one wire becomes several. */
function Junctions({ build, edit, suppliers }: EditorProps & { suppliers: readonly (readonly [string, string])[] }) {
  const add = () =>
    edit((draft) => {
      const taken = new Set([...draft.junctions, ...draft.converters, ...draft.lights].map((one) => one.id));
      let id = "block";
      for (let n = 2; taken.has(id); n++) id = `block-${n}`;
      draft.junctions.push({
        id,
        feed: {
          from: "source",
          at_m: 0,
          length_m: 0.3,
          gauge: { awg: 18 },
          return: "wire",
          fuse: null,
          switch: null,
          contacts: 0,
          contact_rating_a: null,
          bundled: 1,
        },
      });
    });
  const remove = (index: number) =>
    edit((draft) => {
      const [gone] = draft.junctions.splice(index, 1);
      if (!gone) return;
      const feeds = [...draft.lights.flatMap((light) => light.feeds), ...draft.converters.map((one) => one.feed), ...draft.junctions.map((one) => one.feed)];
      for (const feed of feeds) if (feed.from === gone.id) feed.from = gone.feed.from;
    });
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
          <IconButton aria-label={`Remove ${one.id}`} size="xs" minW="8" minH="9" variant="ghost" onClick={() => remove(index)}>
            <Icon name="remove" />
          </IconButton>
        </Box>
      ))}
      <Button size="sm" variant="outline" onClick={add}>
        Add a block
      </Button>
    </Card>
  );
}
