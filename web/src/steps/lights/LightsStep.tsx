import { Box, Button, IconButton, chakra } from "@chakra-ui/react";
import type { Build, Light, Strip } from "../../api/client";
import { escaped } from "../../document/fields";
import { useChange } from "../../document/useChange";
import { Choices, Helper } from "../../job/Choices";
import { AddCircuit } from "../power/Circuits";
import { Field, MoreFields } from "../../job/Field";
import { FieldGrid } from "../../job/fields";
import { Figure } from "../../job/Figure";
import { Icon } from "../../ui/icons";
import { brightness, of, read, ruler } from "../../units";
import { Card, Readout, StepHeading } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";
import { formOf } from "../../scene/outlines";
import { AddLights } from "./AddLights";
import { Colour } from "./Colour";
import { Scenes } from "./Scenes";

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
      return `lamp ${read(of(load, "power_w"))}, ${read(of(load, "voltage_v"))}`;
  }
}

function LightCard(props: EditorProps & { light: Light; index: number }) {
  const { build, replace, picture, selected, onSelect, light } = props;
  const open = selected === light.id;
  const output = picture?.glows.find((known) => known.id === light.id)?.output ?? 0;
  const { add, remove } = useChange(build, replace);
  const copy = () => add({ kind: "copy_light", id: light.id }, { onSuccess: (document) => onSelect(document.lights.at(-1)?.id ?? null) });
  return (
    <Card
      title={
        <chakra.button type="button" textAlign="left" cursor="pointer" minH="8" aria-expanded={open} onClick={() => onSelect(open ? null : light.id)}>
          {light.id}
          <Box as="span" display="block" fontWeight="normal" fontSize="xs" color="fg.muted">
            {summary(light)} · {brightness(output)}
          </Box>
        </chakra.button>
      }
      selected={open}
      aside={
        <Box display="flex" flex="none">
          <IconButton aria-label={`Copy ${light.id}`} title="Copy" size="xs" minW="8" minH="8" variant="ghost" onClick={copy}>
            <Icon name="copy" />
          </IconButton>
          <IconButton
            aria-label={`Remove ${light.id}`}
            title="Remove"
            size="xs"
            minW="8"
            minH="8"
            variant="ghost"
            onClick={() => remove({ kind: "light", id: light.id })}
          >
            <Icon name="remove" />
          </IconButton>
        </Box>
      }
    >
      {open && <LightFields {...props} />}
    </Card>
  );
}

function LightFields({ build, replace, picture, scene, light, index, onCircuit }: EditorProps & { light: Light; index: number }) {
  const places = formOf(build.vehicle).places;
  const reach = picture?.reaches.find((known) => known.id === light.id);
  const { load } = light;
  const here = `/lights/${index}`;
  const shown = build.scenes.findIndex((known) => known.id === scene);
  const inScene = `/scenes/${shown}/lights/${escaped(light.id)}`;
  const lit = build.scenes[shown]?.lights[light.id];
  const circuit = (build.circuits ?? []).find((one) => one.drives.includes(light.id));
  // What a flasher does to its light follows from its parts.
  const flasher = circuit?.kind.endsWith("_flasher") ?? false;
  // A light that is off and steady needs no entry.
  const tidy = (draft: Build) => {
    const lights = draft.scenes[shown]?.lights;
    const entry = lights?.[light.id];
    if (lights && entry?.level === 0 && entry.duty === 1) delete lights[light.id];
  };
  const keys = load.kind === "led_array" ? ["string_a", "resistor_w", "voltage_v", "power_w"] : ["voltage_v", "current_a", "power_w"];
  const facts = keys.flatMap((key) => reach?.facts.find((fact) => fact.key === key) ?? []);
  return (
    <>
      <FieldGrid>
        {shown >= 0 && (
          <>
            <Field at={`${inScene}/level`} absent={0} then={tidy} />
            {!flasher && (
              <Field at={`${inScene}/duty`} absent={1} begins={{ level: 0 }} then={tidy} hint={lit && lit.duty < 1 ? undefined : "100 % is steady"} />
            )}
            {load.kind === "pixels" && lit && <Colour at={`${inScene}/colour`} />}
          </>
        )}
        <Field at={`${here}/place`} suggests={places.map((place) => place.name)} />
        {load.kind === "led_array" && <ArrayFields at={`${here}/load`} />}
        {load.kind === "strip" && <StripFields at={`${here}/load`} strip={load} />}
        {load.kind === "pixels" && <Field at={`${here}/load/count`} />}
        {load.kind === "module" && (
          <>
            <Field at={`${here}/load/power_w`} />
            <Field at={`${here}/load/voltage_v`} />
            <Field at={`${here}/load/min_v`} />
            <Field at={`${here}/load/max_v`} />
          </>
        )}
      </FieldGrid>
      <MoreFields>
        {load.kind === "led_array" && (
          <>
            <Field at={`${here}/load/led/n`} />
            <Field at={`${here}/load/led/rs_ohm`} />
            <Field at={`${here}/load/shared_resistor`} />
            <Field at={`${here}/load/sink_k_per_w`} />
            <Field at={`${here}/load/on_one_sink`} />
          </>
        )}
        {load.kind === "strip" && (
          <>
            <Field at={`${here}/load/voltage_v`} />
            <Field at={`${here}/load/leds_per_segment`} />
            <Field at={`${here}/load/led_vf_v`} />
            {load.recut && (
              <>
                <Field at={`${here}/load/recut/groups`} />
                <Field at={`${here}/load/recut/used`} />
                <Field at={`${here}/load/recut/resistor_ohm`} />
              </>
            )}
          </>
        )}
        {load.kind === "pixels" && (
          <>
            <Field at={`${here}/load/voltage_v`} />
            <Field at={`${here}/load/pitch_m`} />
            <Field at={`${here}/load/idle_a`} />
            <Field at={`${here}/load/channel_a`} />
            <Field at={`${here}/load/regulation_v`} />
            <Field at={`${here}/load/off_v`} />
          </>
        )}
        {(load.kind === "strip" || load.kind === "pixels") && (
          <>
            <Field at={`${here}/load/rail_ohm_per_m`} />
            <Field at={`${here}/load/rail_max_a`} />
            <Field at={`${here}/profile`} />
          </>
        )}
        {load.kind === "module" && <Field at={`${here}/load/draw`} />}
        {load.kind === "module" && <Field at={`${here}/load/inrush_a`} />}
        <Field at={`${here}/sealed`} />
        <Field at={`${here}/reverse_ok`} />
        {load.kind !== "led_array" && <Field at={`${here}/colour`} />}
        <Field at={`${here}/mass_g`} />
      </MoreFields>
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
      {load.kind === "strip" && (
        <Helper title="Rewire the strip for a lower voltage">
          {() => (
            <Choices
              build={build}
              question={{ kind: "recut", light: light.id }}
              figures={["led_a", "light_low", "light_high", "current_a", "heat_w"]}
              onTake={replace}
            />
          )}
        </Helper>
      )}
      {circuit ? (
        <Button size="xs" minH="8" mt="2" variant="outline" onClick={() => onCircuit(circuit.id)}>
          Parts of {circuit.id}
        </Button>
      ) : (
        light.feeds.length === 1 && (
          <Helper title="Add a flasher or keep-alight circuit">
            {() => <AddCircuit build={build} replace={replace} onCircuit={onCircuit} light={light.id} />}
          </Helper>
        )
      )}
      {load.kind === "pixels" && (
        <Helper title="How many the supply carries">
          {() => <Choices build={build} question={{ kind: "pixels", light: light.id }} figures={["each_a", "total_a", "fits", "white_a"]} onTake={replace} />}
        </Helper>
      )}
    </>
  );
}

function StripFields({ at, strip }: { at: string; strip: Strip }) {
  return (
    <>
      <Field at={`${at}/length_m`} hint={`marks every ${ruler(of(strip, "segment_m"))}`} />
      <Field at={`${at}/power_w_per_m`} />
      <Field at={`${at}/segment_m`} />
    </>
  );
}

function ArrayFields({ at }: { at: string }) {
  const fields = ["led/colour", "series", "parallel", "resistor_ohm", "resistor_w", "led/vf_v", "led/if_a", "led/if_max_a"];
  return fields.map((field) => <Field key={field} at={`${at}/${field}`} />);
}
