import { Box, Button, IconButton } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type LedArray, type Light, answer, api, problemOf } from "../../api/client";
import { Choice, FieldGrid, NumberField, TextField } from "../../ui/fields";
import { Figure } from "../../ui/Figure";
import { COUNT, METRE, MILLIAMP, OHM, PERCENT, VOLT, WATT, plain } from "../../units";
import { Card, Readout, StepHeading } from "../build/StepHeading";
import type { EditorProps } from "../build/editor";
import { OUTLINES } from "../build/outlines";

const COLOURS = ["white", "red", "amber", "green", "blue", "violet", "infrared"] as const;

/** Which light, and how bright? */
export function LightsStep(props: EditorProps) {
  const { build } = props;
  return (
    <>
      <StepHeading title="Lights">Which light goes where, and how bright is it in this scene?</StepHeading>
      {build.lights.map((light, index) => (
        <LightCard key={light.id} {...props} light={light} index={index} />
      ))}
      <AddLights {...props} />
    </>
  );
}

function LightCard({ build, edit, picture, scene, selected, onSelect, light, index }: EditorProps & { light: Light; index: number }) {
  const places = OUTLINES[build.vehicle.kind].places;
  const reach = picture?.reaches.find((known) => known.id === light.id);
  const lit = build.scenes.find((known) => known.id === scene)?.lights[light.id];
  const change = (write: (light: Light) => void, field: string) => edit((draft) => write(draft.lights[index]!), `${light.id}.${field}`);
  const inScene = (write: (lit: { level: number; duty: number; colour: number[] }) => void, field: string) =>
    edit((draft) => {
      const known = draft.scenes.find((one) => one.id === scene);
      if (!known) return;
      const entry = known.lights[light.id] ?? { level: 0, colour: [1, 1, 1], duty: 1 };
      write(entry);
      if (entry.level === 0 && entry.duty === 1) delete known.lights[light.id];
      else known.lights[light.id] = entry;
    }, `${scene}.${light.id}.${field}`);
  const remove = () =>
    edit((draft) => {
      draft.lights.splice(index, 1);
      for (const known of draft.scenes) delete known.lights[light.id];
    });
  const keys = light.load.kind === "led_array" ? ["string_a", "resistor_w", "voltage_v", "power_w"] : ["voltage_v", "current_a", "power_w"];
  const facts = keys.flatMap((key) => reach?.facts.find((fact) => fact.key === key) ?? []);
  return (
    <Card
      title={light.id}
      selected={selected === light.id}
      onFocus={() => onSelect(light.id)}
      aside={
        <IconButton aria-label={`Remove ${light.id}`} title="Remove" size="xs" minW="8" minH="8" variant="ghost" onClick={remove}>
          <span aria-hidden>✕</span>
        </IconButton>
      }
    >
      <FieldGrid>
        <TextField
          label="Place"
          value={light.place}
          suggestions={places.map((place) => place.name)}
          onChange={(v) => change((l) => void (l.place = v), "place")}
        />
        {light.load.kind === "led_array" && (
          <ArrayFields array={light.load} change={(write, field) => change((l) => l.load.kind === "led_array" && write(l.load), field)} />
        )}
        {light.load.kind === "strip" && (
          <NumberField
            label="Length"
            unit={METRE}
            min={0.001}
            max={1000}
            value={light.load.length_m}
            onChange={(v) => change((l) => l.load.kind === "strip" && (l.load.length_m = v!), "length")}
          />
        )}
        {light.load.kind === "pixels" && (
          <NumberField
            label="Pixels"
            unit={COUNT}
            whole
            min={1}
            max={20000}
            value={light.load.count}
            onChange={(v) => change((l) => l.load.kind === "pixels" && (l.load.count = v!), "count")}
          />
        )}
        {light.load.kind === "module" && (
          <NumberField
            label="Power"
            unit={WATT}
            min={0.001}
            max={100000}
            value={light.load.power_w}
            onChange={(v) => change((l) => l.load.kind === "module" && (l.load.power_w = v!), "power")}
          />
        )}
        <NumberField
          label="Brightness here"
          unit={PERCENT}
          max={100}
          value={(lit?.level ?? 0) * 100}
          onChange={(v) => inScene((l) => void (l.level = v! / 100), "level")}
        />
        <NumberField
          label="On-time when blinking"
          hint={lit && lit.duty < 1 ? undefined : "100 % is steady"}
          unit={PERCENT}
          max={100}
          value={(lit?.duty ?? 1) * 100}
          onChange={(v) => inScene((l) => void (l.duty = v! / 100), "duty")}
        />
      </FieldGrid>
      <Readout
        rows={facts.map(
          (fact) => [fact.label, <Figure key={fact.key} label={fact.label} text={plain(fact.value, fact.unit)} working={fact.working} />] as const,
        )}
      />
    </Card>
  );
}

function ArrayFields({ array, change }: { array: LedArray; change: (write: (array: LedArray) => void, field: string) => void }) {
  return (
    <>
      <Choice
        label="Colour"
        value={array.led.colour}
        options={[...new Set<string>([...COLOURS, array.led.colour])].map((name) => [name, name] as const)}
        onChange={(v) => change((a) => void (a.led.colour = v), "colour")}
      />
      <NumberField
        label="LEDs in a row"
        unit={COUNT}
        whole
        min={1}
        max={1000}
        value={array.series}
        onChange={(v) => change((a) => void (a.series = v!), "series")}
      />
      <NumberField
        label="Rows side by side"
        unit={COUNT}
        whole
        min={1}
        max={10000}
        value={array.parallel}
        onChange={(v) => change((a) => void (a.parallel = v!), "parallel")}
      />
      <NumberField
        label="Resistor per row"
        unit={OHM}
        max={1e9}
        value={array.resistor_ohm}
        onChange={(v) => change((a) => void (a.resistor_ohm = v!), "resistor")}
      />
      <NumberField label="Its rating" unit={WATT} max={1000} value={array.resistor_w} onChange={(v) => change((a) => void (a.resistor_w = v!), "rating")} />
      <NumberField
        label="Forward voltage"
        unit={VOLT}
        min={0.1}
        max={100}
        value={array.led.vf_v}
        onChange={(v) => change((a) => void (a.led.vf_v = v!), "vf")}
      />
      <NumberField
        label="Rated current"
        unit={MILLIAMP}
        min={0.1}
        max={100000}
        value={array.led.if_a * 1e3}
        onChange={(v) => change((a) => void (a.led.if_a = v! / 1e3), "if")}
      />
      <NumberField
        label="Absolute limit"
        unit={MILLIAMP}
        min={0.1}
        max={100000}
        value={array.led.if_max_a * 1e3}
        onChange={(v) => change((a) => void (a.led.if_max_a = v! / 1e3), "ifmax")}
      />
    </>
  );
}

function AddLights({ build, replace, onSelect }: EditorProps) {
  const places = OUTLINES[build.vehicle.kind].places;
  const suppliers = ["source", ...build.converters.map((one) => one.id), ...build.junctions.map((one) => one.id)];
  const [colour, setColour] = useState<string>("red");
  const [count, setCount] = useState(6);
  const [place, setPlace] = useState(places[1]?.name ?? "");
  const [wish, setFrom] = useState<string | null>(null);
  const [length, setLength] = useState(1);
  // A converter, once there is one, is the better supply.
  const from = wish && suppliers.includes(wish) ? wish : (build.converters[0]?.id ?? "source");
  const add = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/add", { body: { document: build, part: { kind: "leds", colour, count, place, from, length_m: length } } })),
    onSuccess: (document) => {
      replace(document);
      onSelect(document.lights.at(-1)?.id ?? null);
    },
  });
  return (
    <Card title="Add single LEDs">
      <FieldGrid>
        <Choice label="Colour" value={colour} options={COLOURS.map((name) => [name, name] as const)} onChange={setColour} />
        <NumberField label="How many" unit={COUNT} whole min={1} max={1000} value={count} onChange={(v) => setCount(v!)} />
        <TextField label="Place" value={place} suggestions={places.map((known) => known.name)} onChange={setPlace} />
        <Choice
          label="Fed from"
          value={from}
          options={suppliers.map((supplier) => [supplier, supplier === "source" ? "the battery" : supplier] as const)}
          onChange={setFrom}
        />
        <NumberField label="Wire, one way, with slack" unit={METRE} min={0.01} max={1000} value={length} onChange={(v) => setLength(v!)} />
      </FieldGrid>
      {from === "source" && build.lights.length === 0 && build.converters.length === 0 && (
        <Box mt="2" fontSize="xs" color="fg.muted">
          Straight from a battery of many cells a resistor burns most of the power; a step-down module (step Power) wastes less.
        </Box>
      )}
      {add.error && (
        <Box role="alert" mt="2" color="stop.fg">
          {problemOf(add.error).detail}
        </Box>
      )}
      <Button mt="3" size="sm" colorPalette="lantern" loading={add.isPending} onClick={() => add.mutate()}>
        Add lights
      </Button>
      <Box mt="2" fontSize="xs" color="fg.muted">
        Rows and resistors are worked out for three quarters of rated current: cooler, longer-lived, hardly dimmer.
      </Box>
    </Card>
  );
}
