import { Box, Button } from "@chakra-ui/react";
import type { Build, Light, Trait } from "../../api/client";
import { fieldOf, wordsOf } from "../../document/fields";
import { Like } from "../../job/Field";
import { Choices, Helper } from "../../job/Choices";
import { Choice } from "../../job/fields";
import { Card, StepHeading } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";
import { formOf } from "../../scene/outlines";

const TRAITS = wordsOf("Trait").map(([trait, word]) => [trait as Trait, word] as const);

/** Where should light go, and how long is it? */
export function PlacesStep(props: EditorProps) {
  const { build, place, onPlace } = props;
  const usual = formOf(build.vehicle).places;
  const names = [
    ...new Set([...usual.map((known) => known.name), ...(build.places ?? []).map((known) => known.name), ...build.lights.map((light) => light.place)]),
  ].filter(Boolean);
  const shown = place !== null && names.includes(place) ? place : (names[0] ?? null);
  const hint = usual.find((known) => known.name === shown)?.hint;
  return (
    <>
      <StepHeading title="Places">Lay a string along the vehicle where the light should go, then measure the string.</StepHeading>
      <Box role="radiogroup" aria-label="Place" display="flex" flexWrap="wrap" gap="1.5" mb="3">
        {names.map((name) => {
          const here = build.lights.filter((light) => light.place === name).length;
          return (
            <Button
              key={name}
              role="radio"
              aria-checked={name === shown}
              size="xs"
              minH="8"
              variant={name === shown ? "solid" : "outline"}
              colorPalette={name === shown ? "lantern" : undefined}
              onClick={() => onPlace(name)}
            >
              {name}
              {here > 0 && ` · ${here} lit`}
            </Button>
          );
        })}
      </Box>
      {shown !== null && <PlaceCard key={shown} {...props} name={shown} hint={hint} usual={usual.find((known) => known.name === shown)?.traits ?? []} />}
      {build.lights
        .filter((light) => light.place === shown)
        .map((light) => (
          <LengthCard key={light.id} {...props} light={light} />
        ))}
    </>
  );
}

const SURFACE = fieldOf("Place.surface");

function PlaceCard({ build, edit, onPlace, name, hint, usual }: EditorProps & { name: string; hint?: string; usual: readonly Trait[] }) {
  const noted = (build.places ?? []).find((known) => known.name === name);
  const traits = noted?.traits ?? usual;
  const note = (write: (place: NonNullable<Build["places"]>[number]) => void, field: string) =>
    edit((draft) => {
      const places = (draft.places ??= []);
      let mine = places.find((known) => known.name === name);
      if (!mine) places.push((mine = { name, traits: [...usual], note: "" }));
      write(mine);
    }, `place.${name}.${field}`);
  return (
    <Card title={name}>
      {hint && (
        <Box color="fg.muted" mb="2">
          {hint}
        </Box>
      )}
      <Box role="group" aria-label={`What ${name} does to a light`} display="flex" flexWrap="wrap" gap="1.5" alignItems="center">
        <span>This spot</span>
        {TRAITS.map(([trait, word]) => {
          const on = traits.includes(trait);
          return (
            <Button
              key={trait}
              size="xs"
              minH="8"
              aria-pressed={on}
              variant={on ? "subtle" : "outline"}
              colorPalette={on ? "lantern" : undefined}
              onClick={() => note((mine) => void (mine.traits = on ? mine.traits.filter((known) => known !== trait) : [...mine.traits, trait]), trait)}
            >
              {on ? "✓ " : ""}
              {word}
            </Button>
          );
        })}
      </Box>
      <Box mt="3" maxW="16rem">
        <Like
          field="Place.string_m"
          hint="from the supply, with the bends; a light put here takes it over"
          value={noted?.string_m ?? null}
          onChange={(v) => note((mine) => void (mine.string_m = v ?? null), "string")}
        />
      </Box>
      <Box mt="3" maxW="16rem">
        <Choice
          label={SURFACE.label!}
          value={noted?.surface ?? ""}
          options={[["", SURFACE.nothing!], ...wordsOf("Ground")]}
          onChange={(word) => note((mine) => void (mine.surface = (word || null) as NonNullable<typeof noted>["surface"]), "surface")}
        />
      </Box>
      <Box mt="3">
        <input
          className="control"
          aria-label={`Note on ${name}`}
          placeholder="A note for the day you build it"
          maxLength={2000}
          value={noted?.note ?? ""}
          onChange={(event) => note((mine) => void (mine.note = event.target.value), "note")}
        />
      </Box>
      <Button mt="3" size="sm" colorPalette="lantern" onClick={() => onPlace(name, true)}>
        Put a light here
      </Button>
    </Card>
  );
}

/** The wire to a light by the string method, and a strip cut to whole segments. */
function LengthCard({ build, edit, replace, light }: EditorProps & { light: Light }) {
  const feed = light.feeds[0]!;
  const slack = feed.slack_m ?? 0;
  const noted = (build.places ?? []).find((known) => known.name === light.place)?.traits;
  const moves = (noted ?? formOf(build.vehicle).places.find((known) => known.name === light.place)?.traits ?? []).includes("moving");
  const change = (write: (feed: Light["feeds"][number]) => void, field: string) =>
    edit((draft) => {
      const mine = draft.lights.find((known) => known.id === light.id)?.feeds[0];
      if (mine) write(mine);
    }, `${light.id}.${field}`);
  const round = (metres: number) => Math.round(metres * 1e4) / 1e4;
  return (
    <Card title={`${light.id}: its wire`}>
      <Box display="grid" gridTemplateColumns="1fr 1fr" gap="3">
        <Like
          field="Feed.length_m"
          label="String, along the way"
          value={round(feed.length_m - slack)}
          onChange={(v) => change((f) => void (f.length_m = round(v! + (f.slack_m ?? 0))), "string")}
        />
        <Like
          field="Feed.slack_m"
          label="Slack"
          hint={slack === 0 ? "If left blank: none" : undefined}
          value={slack || null}
          onChange={(v) =>
            change((f) => {
              f.length_m = round(f.length_m - (f.slack_m ?? 0) + (v ?? 0));
              f.slack_m = v || null;
            }, "slack")
          }
        />
      </Box>
      {moves && <SlackLoop slack={slack} />}
      {light.load.kind === "strip" && (
        <Helper title="How much strip fits, and where to feed it">{() => <StripFit build={build} replace={replace} light={light} />}</Helper>
      )}
    </Card>
  );
}

function StripFit({ build, replace, light }: Pick<EditorProps, "build" | "replace"> & { light: Light }) {
  return <Choices build={build} question={{ kind: "strip", light: light.id }} figures={["fade", "segments", "lost_m"]} onTake={replace} />;
}

/** The slack of a wire to something that moves hangs as a U between where it is held on either side. */
function SlackLoop({ slack }: { slack: number }) {
  const deep = Math.min(64, 12 + 240 * slack);
  return (
    <Box as="figure" mt="3">
      <svg
        viewBox="0 0 260 100"
        width="100%"
        style={{ maxWidth: "20rem" }}
        role="img"
        aria-label={`A U of ${Math.round(100 * slack)} centimetres hangs free beside the joint`}
      >
        <g stroke="currentColor" fill="none" strokeWidth="2">
          <path d="M10 20H90M170 20h80" strokeWidth="6" opacity="0.35" />
          <circle cx="130" cy="20" r="7" />
          <path d="M97 20H123M137 20h26" strokeWidth="6" opacity="0.35" />
        </g>
        <path d={`M20 28H80C92 28 92 ${28 + deep} 130 ${28 + deep}S168 28 180 28h60`} fill="none" stroke="var(--chakra-colors-lantern-solid)" strokeWidth="3" />
        <g fill="currentColor" fontSize="11">
          <rect x="72" y="23" width="6" height="10" />
          <rect x="182" y="23" width="6" height="10" />
          <text x="66" y="46" textAnchor="end">
            tied
          </text>
          <text x="194" y="46">
            tied
          </text>
        </g>
      </svg>
      <Box as="figcaption" fontSize="xs" color="fg.muted">
        {slack > 0
          ? "Tie it on both sides and let the slack hang as a U. Move the part through its whole range before you tie."
          : "It moves here: leave a hand’s width of slack, tied on both sides, as a U."}
      </Box>
    </Box>
  );
}
