import { Box, Button, chakra } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Air, type Around, type Build, type Light, type LightSeen, answer, api, problemOf } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { capital, wordsOf } from "../../document/fields";
import { numberOf } from "../../document/useSolved";
import { Choices, Helper } from "../../job/Choices";
import { Field, useField } from "../../job/Field";
import { FieldGrid } from "../../job/fields";
import { Figure } from "../../job/Figure";
import { Prose } from "../../ui/Prose";
import { Segments } from "../../ui/Segments";
import { Card, Readout, StepHeading } from "../../ui/StepHeading";
import { inOwn, millimetres, read, shownIn } from "../../units";

const named = <W extends string>(list: string) => wordsOf(list).map(([word, called]) => [word as W, called] as const);
const AROUND = named<Around>("Around");
const AIR = named<Air>("Air");

/** What a lens and a diffuser are like before anyone measures them. */
const LENS = { half_angle_deg: 8, through: 0.85 };
const DIFFUSER = { distance_mm: 12, through: 0.6 };
const COATS = { kind: "black", count: 2 };

/** How bright it is, how far it is seen, whether single points show. */
export function LookStep(props: EditorProps) {
  const { build, scene, picture } = props;
  const [air, setAir] = useState<Air>("clear");
  const asked = useLook(build, scene, picture?.state, air);
  return (
    <>
      <StepHeading title="Look">How bright is it, how far is it seen, and do single points show?</StepHeading>
      {build.lights.length === 0 ? (
        <Box color="fg.muted">There is no light yet. Put one in at Lights, and see here how it looks.</Box>
      ) : (
        <>
          <Card title="Around it">
            <Surroundings now={asked.data?.around} />
            <Box mt="2">
              <Segments label="Air" quiet value={air} options={AIR} onChange={setAir} />
            </Box>
          </Card>
          {asked.error && (
            <Box role="alert" color="stop.fg">
              <Prose text={problemOf(asked.error).detail} />
            </Box>
          )}
          {build.lights.map((light, index) => (
            <LightCard key={light.id} {...props} light={light} index={index} look={asked.data?.lights.find((one) => one.id === light.id)} />
          ))}
          <Box color="fg.muted" fontSize="xs" mt="3">
            As the eye has it: representative figures, good for comparing. Law and standards for lights on vehicles differ from place to place; nothing here is
            an approval. A hole or a seam shows only when you look at it in the dark, with the light on.
          </Box>
        </>
      )}
    </>
  );
}

/** The light of every light as it is planned, the last answer standing until the next is there. */
function useLook(build: Build, scene: string, state: string | undefined, air: Air) {
  return useQuery({
    queryKey: ["look", numberOf(build), scene, state, air],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/look", { body: { document: build, scene: scene || undefined, state: state as never, air }, signal })),
    enabled: build.lights.length > 0 && build.scenes.length > 0,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
}

/** What the build says surrounds it; where it says nothing, what the core takes for it. */
function Surroundings({ now }: { now: Around | undefined }) {
  const { value, write } = useField("/usage/around");
  const shown = (value as Around | null | undefined) ?? now;
  return shown ? <Segments label="Surroundings" value={shown} options={AROUND} onChange={write} /> : null;
}

function LightCard({ look, ...props }: EditorProps & { light: Light; index: number; look: LightSeen | undefined }) {
  const { selected, onSelect, light } = props;
  const open = selected === light.id;
  return (
    <Card
      title={
        <chakra.button type="button" textAlign="left" cursor="pointer" minH="8" aria-expanded={open} onClick={() => onSelect(open ? null : light.id)}>
          {light.id}
          <Box as="span" display="block" fontWeight="normal" fontSize="sm">
            {inOwn(look?.words ?? "…")}
          </Box>
          {look?.row && (
            <Box as="span" display="block" fontWeight="normal" fontSize="xs" color="fg.muted">
              {inOwn(look.row)}
            </Box>
          )}
        </chakra.button>
      }
      selected={open}
    >
      {open && <LightFields {...props} look={look} />}
    </Card>
  );
}

function LightFields({ build, replace, scene, light, index, look }: EditorProps & { light: Light; index: number; look: LightSeen | undefined }) {
  const here = `/lights/${index}`;
  const shine = `${here}/shine`;
  const row = look?.even_mm != null;
  return (
    <>
      <Readout
        rows={(look?.facts ?? []).map((fact) => [fact.label, <Figure key={fact.key} label={fact.label} text={read(fact)} working={fact.working} />] as const)}
      />
      <FieldGrid>
        <Field at={`${here}/for`} none="Nobody said" />
        <Field at={`${shine}/down_deg`} clears={`${shine}/down_deg`} hint="0 is level" />
        <Field at={`${shine}/lm`} clears={`${shine}/lm`} hint={look && `of its kind ${read({ value: look.usual_lm, unit: "lm" })}`} />
        <Field
          at={`${shine}/half_angle_deg`}
          clears={`${shine}/half_angle_deg`}
          hint={look && (look.usual_half_angle_deg == null ? "of its kind: all round" : `of its kind ${look.usual_half_angle_deg}°`)}
        />
      </FieldGrid>
      <Before at={`${shine}/lens`} name="lens" begins={LENS}>
        <Field at={`${shine}/lens/half_angle_deg`} />
        <Field at={`${shine}/lens/through`} />
      </Before>
      <Before at={`${shine}/diffuser`} name="diffuser" begins={row ? DIFFUSER : { ...DIFFUSER, distance_mm: null }}>
        <Field at={`${shine}/diffuser/distance_mm`} clears={`${shine}/diffuser/distance_mm`} />
        <Field at={`${shine}/diffuser/through`} />
        {row && <Distance at={`${shine}/diffuser/distance_mm`} even={look.even_mm!} />}
      </Before>
      <Before at={`${shine}/coats`} name="coat against stray light" begins={COATS}>
        <Field at={`${shine}/coats/kind`} />
        <Field at={`${shine}/coats/count`} />
      </Before>
      <Helper title="How bright it should look">{() => <Wished build={build} replace={replace} scene={scene} light={light.id} />}</Helper>
    </>
  );
}

/** Something before the light that is there or not. */
function Before({ at, name, begins, children }: { at: string; name: string; begins: unknown; children: React.ReactNode }) {
  const { value, write } = useField(at);
  const there = value !== null && value !== undefined;
  return (
    <Box mt="2">
      {there && (
        <>
          <Box fontWeight="semibold" fontSize="sm">
            {capital(name)}
          </Box>
          <FieldGrid>{children}</FieldGrid>
        </>
      )}
      <Button size="xs" minH="8" mt="1" variant="outline" onClick={() => write(there ? null : begins)}>
        {there ? `Without ${name}` : `Add a ${name}`}
      </Button>
    </Box>
  );
}

/** How far a slide goes beyond where a row is even. */
const BEYOND = 1.6;

/** The distance of a diffuser under a hand, with a mark where the row looks even. */
function Distance({ at, even }: { at: string; even: number }) {
  const { value, write } = useField(at);
  const unit = millimetres();
  const most = Math.ceil(BEYOND * even);
  const words = (mm: number) => `${Number(shownIn(mm, unit).toFixed(unit.name === "mm" ? 0 : 2))} ${unit.name}`;
  const now = Math.min((value as number | null | undefined) ?? 1, most);
  return (
    <Box gridColumn="1 / -1" position="relative" pb="5">
      <input
        type="range"
        aria-label="Distance to the LEDs: slide"
        aria-valuetext={words(now)}
        style={{ width: "100%", minHeight: "2rem" }}
        min={1}
        max={most}
        step={0.5}
        value={now}
        onChange={(event) => write(Number(event.target.value))}
      />
      <Box
        position="absolute"
        left={`${(100 * (even - 1)) / (most - 1)}%`}
        bottom="0"
        transform="translateX(-50%)"
        fontSize="xs"
        color="lantern.fg"
        whiteSpace="nowrap"
      >
        ▲ even from {words(Math.ceil(even))}
      </Box>
    </Box>
  );
}

/** Ways to a brightness that somebody wishes. */
function Wished({ build, replace, scene, light }: { build: Build; replace: (next: Build) => void; scene: string; light: string }) {
  const [looks, setLooks] = useState(50);
  const [asked, setAsked] = useState(looks);
  return (
    <Box>
      <label>
        <Box as="span" fontSize="sm">
          To the eye <b>{looks} %</b> as bright as at full power
        </Box>
        <input
          type="range"
          min={5}
          max={100}
          step={5}
          value={looks}
          aria-valuetext={`${looks} %`}
          style={{ width: "100%", minHeight: "2rem" }}
          onChange={(event) => setLooks(Number(event.target.value))}
          onPointerUp={() => setAsked(looks)}
          onKeyUp={() => setAsked(looks)}
          onBlur={() => setAsked(looks)}
        />
      </label>
      <Choices
        build={build}
        question={{ kind: "looks", light, scene: scene || undefined, looks: asked / 100 }}
        figures={["looks", "looks_last"]}
        onTake={replace}
      />
    </Box>
  );
}
