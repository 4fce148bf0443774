import { Box, IconButton } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import type { Led, LedArray, Light, Strip } from "../../api/client";
import { answer, api } from "../../api/client";
import { useReference } from "../../api/reference";
import { Choices, Helper } from "../../ui/Choices";
import { Choice, FieldGrid, LengthField, NumberField, TextField } from "../../ui/fields";
import { Figure } from "../../ui/Figure";
import { AMP, COUNT, MILLIAMP, OHM, PERCENT, VOLT, WATT, of, read, ruler } from "../../units";
import { Card, Readout, StepHeading } from "../build/StepHeading";
import type { EditorProps } from "../build/editor";
import { outlineOf } from "../build/outlines";
import { AddLights } from "./AddLights";
import { COLOURS, Colour } from "./colours";
import { Scenes } from "./Scenes";
import { Icon } from "../../ui/icons";
import { usePrefs } from "../../ui/prefs";

/** Which light, and how bright? */
export function LightsStep(props: EditorProps) {
  const { build } = props;
  return (
    <>
      <StepHeading title="Lights">Which light goes where, and how bright is it in this scene?</StepHeading>
      {(build.lights.length === 0 || props.place !== null) && <AddLights {...props} />}
      {build.lights.map((light, index) => (
        <LightCard key={light.id} {...props} light={light} index={index} />
      ))}
      {build.lights.length > 0 && props.place === null && <AddLights {...props} />}
      <Scenes {...props} />
    </>
  );
}

function summary(light: Light): string {
  const { load } = light;
  switch (load.kind) {
    case "led_array":
      return `${load.parallel} × ${load.series} ${load.led.colour} LEDs`;
    case "strip":
      return `${read(of(load, "length_m"))} strip, ${read(of(load, "voltage_v"))}`;
    case "pixels":
      return `${load.count} pixels, ${read(of(load, "voltage_v"))}`;
    default:
      return `module ${read(of(load, "power_w"))}, ${read(of(load, "voltage_v"))}`;
  }
}

function LightCard(props: EditorProps & { light: Light; index: number }) {
  const { build, edit, replace, picture, scene, selected, onSelect, light, index } = props;
  const open = selected === light.id;
  const output = picture?.glows.find((known) => known.id === light.id)?.output ?? 0;
  const copy = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/add", { body: { document: build, part: { kind: "copy_light", id: light.id } } })),
    onSuccess: (document) => {
      replace(document);
      onSelect(document.lights.at(-1)?.id ?? null);
    },
  });
  const remove = () =>
    edit((draft) => {
      const [gone] = draft.lights.splice(index, 1);
      for (const known of draft.scenes) delete known.lights[light.id];
      // A driver feeds one light; without it, it is of no use.
      const from = gone?.feeds[0]?.from;
      draft.converters = draft.converters.filter((part) => part.kind !== "current_driver" || part.id !== from);
    });
  return (
    <Card
      title={
        <Box as="button" textAlign="left" cursor="pointer" minH="8" aria-expanded={open} onClick={() => onSelect(open ? null : light.id)}>
          {light.id}
          <Box as="span" display="block" fontWeight="normal" fontSize="xs" color="fg.muted">
            {summary(light)} · {output > 0.005 ? `${Math.round(output * 100)} % bright` : "off here"}
          </Box>
        </Box>
      }
      selected={open}
      aside={
        <Box display="flex" flex="none">
          <IconButton aria-label={`Copy ${light.id}`} title="Copy" size="xs" minW="8" minH="8" variant="ghost" onClick={() => copy.mutate()}>
            <Icon name="copy" />
          </IconButton>
          <IconButton aria-label={`Remove ${light.id}`} title="Remove" size="xs" minW="8" minH="8" variant="ghost" onClick={remove}>
            <Icon name="remove" />
          </IconButton>
        </Box>
      }
    >
      {open && <LightFields {...props} lit={build.scenes.find((known) => known.id === scene)?.lights[light.id]} />}
    </Card>
  );
}

type Lit = { level: number; duty: number; colour: number[] };

function LightFields({ build, edit, replace, picture, scene, light, index, lit }: EditorProps & { light: Light; index: number; lit?: Lit }) {
  const places = outlineOf(build.vehicle.kind).places;
  const practice = useReference()?.practice;
  const reach = picture?.reaches.find((known) => known.id === light.id);
  const change = (write: (light: Light) => void, field: string) => edit((draft) => write(draft.lights[index]!), `${light.id}.${field}`);
  const inScene = (write: (lit: Lit) => void, field: string) =>
    edit((draft) => {
      const known = draft.scenes.find((one) => one.id === scene);
      if (!known) return;
      const entry = known.lights[light.id] ?? { level: 0, colour: [1, 1, 1], duty: 1 };
      write(entry);
      if (entry.level === 0 && entry.duty === 1) delete known.lights[light.id];
      else known.lights[light.id] = entry;
    }, `${scene}.${light.id}.${field}`);
  const { load } = light;
  const keys = load.kind === "led_array" ? ["string_a", "resistor_w", "voltage_v", "power_w"] : ["voltage_v", "current_a", "power_w"];
  const facts = keys.flatMap((key) => reach?.facts.find((fact) => fact.key === key) ?? []);
  return (
    <>
      <FieldGrid>
        <NumberField
          label="Brightness here"
          term="level"
          unit={PERCENT}
          max={100}
          value={(lit?.level ?? 0) * 100}
          onChange={(v) => inScene((l) => void (l.level = v! / 100), "level")}
        />
        <NumberField
          label="On-time when blinking"
          term="duty"
          hint={lit && lit.duty < 1 ? undefined : "100 % is steady"}
          unit={PERCENT}
          max={100}
          value={(lit?.duty ?? 1) * 100}
          onChange={(v) => inScene((l) => void (l.duty = v! / 100), "duty")}
        />
        {load.kind === "pixels" && lit && <Colour value={lit.colour} onChange={(colour) => inScene((l) => void (l.colour = colour), "colour")} />}
        <TextField
          label="Place"
          value={light.place}
          suggestions={places.map((place) => place.name)}
          onChange={(v) => change((l) => void (l.place = v), "place")}
        />
        {load.kind === "led_array" && (
          <ArrayFields array={load} change={(write, field) => change((l) => l.load.kind === "led_array" && write(l.load), field)} />
        )}
        {load.kind === "strip" && <StripFields strip={load} change={(write, field) => change((l) => l.load.kind === "strip" && write(l.load), field)} />}
        {load.kind === "pixels" && (
          <NumberField
            label="Pixels"
            term="pixel"
            unit={COUNT}
            whole
            min={1}
            max={20000}
            value={load.count}
            onChange={(v) => change((l) => l.load.kind === "pixels" && (l.load.count = v!), "count")}
          />
        )}
        {(load.kind === "strip" || load.kind === "pixels") && (
          <NumberField
            label="Its rails carry"
            hint={load.rail_max_a == null && practice ? `empty: ${read(of(practice, "rail_max_a"))}` : undefined}
            unit={AMP}
            optional
            min={0.01}
            max={10000}
            value={load.rail_max_a ?? null}
            onChange={(v) => change((l) => (l.load.kind === "strip" || l.load.kind === "pixels") && (l.load.rail_max_a = v), "rails")}
          />
        )}
        {load.kind === "module" && (
          <>
            <NumberField
              label="Power"
              unit={WATT}
              min={0.001}
              max={100000}
              value={load.power_w}
              onChange={(v) => change((l) => l.load.kind === "module" && (l.load.power_w = v!), "power")}
            />
            <NumberField
              label="Rated voltage"
              unit={VOLT}
              min={0.1}
              max={1000}
              value={load.voltage_v}
              onChange={(v) => change((l) => l.load.kind === "module" && (l.load.voltage_v = v!), "volts")}
            />
            <NumberField
              label="Works from"
              unit={VOLT}
              max={load.max_v}
              value={load.min_v}
              onChange={(v) => change((l) => l.load.kind === "module" && (l.load.min_v = v!), "min")}
            />
            <NumberField
              label="Stands up to"
              unit={VOLT}
              min={Math.max(load.min_v, 0.1)}
              max={1000}
              value={load.max_v}
              onChange={(v) => change((l) => l.load.kind === "module" && (l.load.max_v = v!), "max")}
            />
          </>
        )}
        <NumberField
          label="Mass"
          unit={{ name: "g", scale: { "": 1, g: 1, kg: 1000, oz: 28.3495 } }}
          value={light.mass_g}
          onChange={(v) => change((l) => void (l.mass_g = v!), "mass")}
        />
      </FieldGrid>
      <Readout rows={facts.map((fact) => [fact.label, <Figure key={fact.key} label={fact.label} text={read(fact)} working={fact.working} />] as const)} />
      {load.kind === "led_array" && (
        <Helper title="Ways to arrange them">
          {() => (
            <Choices
              build={build}
              question={{ kind: "strings", light: light.id, series: "e24" }}
              figures={["full_a", "reserve_a", "efficiency", "bench_220", "bench_330", "bench_470"]}
              onTake={replace}
            />
          )}
        </Helper>
      )}
      {load.kind === "strip" && (
        <Helper title="Where to feed it">
          {() => <Choices build={build} question={{ kind: "strip", light: light.id }} figures={["fade", "segments", "lost_m"]} onTake={replace} />}
        </Helper>
      )}
      {load.kind === "pixels" && (
        <Helper title="How many the supply carries">
          {() => <Choices build={build} question={{ kind: "pixels", light: light.id }} figures={["each_a", "total_a", "fits", "white_a"]} onTake={replace} />}
        </Helper>
      )}
    </>
  );
}

function StripFields({ strip, change }: { strip: Strip; change: (write: (strip: Strip) => void, field: string) => void }) {
  const { imperial } = usePrefs();
  return (
    <>
      <LengthField
        label="Length"
        term="strip"
        hint={`marks every ${ruler(of(strip, "segment_m"), imperial)}`}
        min={0.001}
        max={1000}
        value={strip.length_m}
        onChange={(v) => change((s) => void (s.length_m = v!), "length")}
      />
      <NumberField
        label="Power a metre"
        unit={WATT}
        min={0.01}
        max={1000}
        value={strip.power_w_per_m}
        onChange={(v) => change((s) => void (s.power_w_per_m = v!), "power")}
      />
      <LengthField
        label="Segment"
        term="segment"
        min={0.001}
        max={10}
        value={strip.segment_m}
        onChange={(v) => change((s) => void (s.segment_m = v!), "segment")}
      />
    </>
  );
}

function ArrayFields({ array, change }: { array: LedArray; change: (write: (array: LedArray) => void, field: string) => void }) {
  const led = (write: (led: Led) => void, field: string) => change((a) => write(a.led), field);
  return (
    <>
      <Choice
        label="Colour"
        value={array.led.colour}
        options={[...new Set<string>([...COLOURS, array.led.colour])].map((name) => [name, name] as const)}
        onChange={(v) => led((l) => void (l.colour = v), "colour")}
      />
      <NumberField
        label="LEDs in a row"
        term="row"
        unit={COUNT}
        whole
        min={1}
        max={1000}
        value={array.series}
        onChange={(v) => change((a) => void (a.series = v!), "series")}
      />
      <NumberField
        label="Rows side by side"
        term="parallel"
        unit={COUNT}
        whole
        min={1}
        max={10000}
        value={array.parallel}
        onChange={(v) => change((a) => void (a.parallel = v!), "parallel")}
      />
      <NumberField
        label="Resistor per row"
        term="resistor"
        unit={OHM}
        max={1e9}
        value={array.resistor_ohm}
        onChange={(v) => change((a) => void (a.resistor_ohm = v!), "resistor")}
      />
      <NumberField label="Its rating" unit={WATT} max={1000} value={array.resistor_w} onChange={(v) => change((a) => void (a.resistor_w = v!), "rating")} />
      <NumberField
        label="Forward voltage"
        term="forward voltage"
        unit={VOLT}
        min={0.1}
        max={100}
        value={array.led.vf_v}
        onChange={(v) => led((l) => void (l.vf_v = v!), "vf")}
      />
      <NumberField
        label="Rated current"
        term="rated current"
        unit={MILLIAMP}
        min={0.1}
        max={100000}
        value={array.led.if_a * 1e3}
        onChange={(v) => led((l) => void (l.if_a = v! / 1e3), "if")}
      />
      <NumberField
        label="Absolute limit"
        unit={MILLIAMP}
        min={0.1}
        max={100000}
        value={array.led.if_max_a * 1e3}
        onChange={(v) => led((l) => void (l.if_max_a = v! / 1e3), "ifmax")}
      />
    </>
  );
}
