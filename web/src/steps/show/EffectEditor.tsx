import { Box, Button, IconButton } from "@chakra-ui/react";
import type { InputCard, PixelEffect } from "../../api/client";
import { wordsOf } from "../../document/fields";
import { useField } from "../../job/Field";
import { Field } from "../../job/Field";
import { Choice, FieldGrid } from "../../job/fields";
import { Icon } from "../../ui/icons";
import { hexOf, sharesOf } from "../../base/linear";

/** Fields that each kind of effect has, beside its colours. */
const HAS: Record<PixelEffect["kind"], readonly (keyof PixelEffect)[]> = {
  steady: [],
  blink: ["period_s", "duty"],
  breathe: ["period_s"],
  chase: ["period_s", "spread"],
  to_and_fro: ["period_s", "spread"],
  rainbow: ["period_s"],
  gradient: ["period_s"],
  ember: ["seed"],
  level: [],
  mix: [],
  table: [],
};
/** How many colours a kind shows; none: as many as there are. */
const COLOURS: Partial<Record<PixelEffect["kind"], number>> = { steady: 1, blink: 2, breathe: 1, chase: 1, to_and_fro: 1, rainbow: 0, table: 0 };
const RUNS = ["chase", "rainbow", "gradient"];

type Shares = [number, number, number];

interface Props {
  at: string;
  effect: PixelEffect;
  inputs: readonly InputCard[];
  onChange: (then: (effect: PixelEffect) => void) => void;
}

/** What an effect is made of. */
export function EffectEditor({ at, effect, inputs, onChange }: Props) {
  const most = COLOURS[effect.kind];
  const colours = (effect.colours ?? [[1, 1, 1]]) as Shares[];
  const follows = effect.kind === "level" || effect.kind === "mix" || effect.kind === "table";
  const fits = inputs.filter((input) => effect.kind !== "table" || input.says.length > 0);
  const says = inputs.find((input) => input.input === effect.input)?.says ?? [];
  const backwards = effect.direction === -1;
  return (
    <>
      {most !== 0 && (
        <Box display="flex" gap="2" flexWrap="wrap" alignItems="center" my="2" role="group" aria-label="Colours">
          {colours.slice(0, most).map((colour, index) => (
            <Box key={index} display="flex">
              <input
                type="color"
                aria-label={`Colour ${index + 1}`}
                value={hexOf(colour)}
                style={{ width: "2.6rem", height: "2.25rem", cursor: "pointer", background: "none" }}
                onChange={(event) =>
                  onChange((draft) => {
                    draft.colours = colours.map((known, place) => (place === index ? sharesOf(event.target.value) : known));
                  })
                }
              />
              {colours.length > 1 && (
                <IconButton
                  aria-label={`Remove colour ${index + 1}`}
                  size="xs"
                  minW="8"
                  minH="8"
                  variant="ghost"
                  onClick={() => onChange((draft) => void (draft.colours = colours.filter((_, place) => place !== index)))}
                >
                  <Icon name="remove" />
                </IconButton>
              )}
            </Box>
          ))}
          {(most === undefined || colours.length < most) && colours.length < 64 && (
            <Button size="xs" minH="8" variant="outline" onClick={() => onChange((draft) => void (draft.colours = [...colours, [1, 0.42, 0.08]]))}>
              Add a colour
            </Button>
          )}
        </Box>
      )}
      <FieldGrid>
        {HAS[effect.kind].map((name) => (
          <Field key={name} at={`${at}/${name}`} />
        ))}
        {follows && (
          <Choice
            label="Follows"
            value={effect.input ?? ""}
            options={fits.map((input) => [input.input, input.called] as const)}
            onChange={(next) =>
              onChange((draft) => {
                draft.input = next as PixelEffect["input"];
                if (draft.kind !== "table") return;
                const words = inputs.find((input) => input.input === next)?.says ?? [];
                const rows = draft.table ?? [];
                draft.table = words.map((word, index) => ({ word, ...(rows[index] ? without(rows[index]) : { colour: [0, 0, 0] as Shares }) }));
              })
            }
          />
        )}
      </FieldGrid>
      {RUNS.includes(effect.kind) && (
        <Button
          size="xs"
          minH="8"
          variant="outline"
          mt="2"
          aria-pressed={backwards}
          onClick={() => onChange((draft) => void (draft.direction = backwards ? 1 : -1))}
        >
          {backwards ? "runs towards the controller ←" : "runs away from the controller →"}
        </Button>
      )}
      {effect.kind === "table" && says.map((word) => <Row key={word} at={at} word={word} effect={effect} inputs={inputs} onChange={onChange} />)}
    </>
  );
}

type TableRow = NonNullable<PixelEffect["table"]>[number];
const without = (row: TableRow): Omit<TableRow, "word"> => (row.effect ? { effect: row.effect } : { colour: row.colour ?? [0, 0, 0] });

/** What is shown at a word of an input. */
function Row({ at, word, effect, inputs, onChange }: Props & { word: string }) {
  const rows = effect.table ?? [];
  const index = rows.findIndex((row) => row.word === word);
  const row = rows[index];
  const put = (own: Omit<TableRow, "word">) =>
    onChange((draft) => {
      draft.table = [...rows.filter((known) => known.word !== word), { word, ...own }];
    });
  return (
    <Box mt="3" pt="2" borderTopWidth="1px">
      <FieldGrid>
        <Choice
          label={`At “${word}”`}
          value={row ? (row.effect ? row.effect.kind : "colour") : "same"}
          options={[
            ["same", "as at the first"],
            ["colour", "a colour"],
            ...wordsOf("EffectKind")
              .filter(([kind]) => kind !== "table" && kind !== "steady")
              .map(([kind, called]) => [kind, called] as const),
          ]}
          onChange={(next) => {
            if (next === "same") onChange((draft) => void (draft.table = rows.filter((known) => known.word !== word)));
            else if (next === "colour") put({ colour: (row?.effect?.colours?.[0] as Shares | undefined) ?? [1, 0.42, 0.08] });
            else
              put({
                effect: {
                  kind: next as PixelEffect["kind"],
                  colours: row?.effect?.colours ?? [row?.colour ?? [1, 0.42, 0.08]],
                  ...(next === "level" || next === "mix" ? { input: "battery" as const } : {}),
                },
              });
          }}
        />
        {row?.colour && (
          <label>
            <Box fontSize="xs" color="fg.muted" minH="6" mb="0.5" display="flex" alignItems="center">{`Colour at “${word}”`}</Box>
            <input
              type="color"
              value={hexOf(row.colour)}
              style={{ width: "100%", height: "2.25rem", cursor: "pointer", background: "none" }}
              onChange={(event) => put({ colour: sharesOf(event.target.value) })}
            />
          </label>
        )}
      </FieldGrid>
      {row?.effect && (
        <EffectEditor
          at={`${at}/table/${index}/effect`}
          effect={row.effect}
          inputs={inputs}
          onChange={(then) =>
            onChange((draft) => {
              const own = draft.table?.find((known) => known.word === word)?.effect;
              if (own) then(own);
            })
          }
        />
      )}
    </Box>
  );
}

/** How bright a light is in a scene. */
export function Brightness({ at }: { at: string }) {
  const { value, write } = useField(at);
  const share = typeof value === "number" ? value : 1;
  return (
    <Box asChild display="flex" gap="2" alignItems="center" fontSize="sm">
      <label>
        Brightness
        <input
          type="range"
          min={0.05}
          max={1}
          step={0.05}
          value={share}
          aria-valuetext={`${Math.round(100 * share)} %`}
          onChange={(event) => write(Number(event.target.value))}
        />
        {`${Math.round(100 * share)} %`}
      </label>
    </Box>
  );
}
