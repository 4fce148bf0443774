import { Box, Button, IconButton } from "@chakra-ui/react";
import type { InputCard, PixelEffect } from "../../api/client";
import { fieldsAt, wordsOf } from "../../document/fields";
import { Fields, useEditing, useField } from "../../job/Field";
import { Choice, FieldGrid } from "../../job/fields";
import { Icon } from "../../ui/icons";
import { hexOf, sharesOf } from "../../base/linear";

type Shares = [number, number, number];

interface Props {
  at: string;
  effect: PixelEffect;
  inputs: readonly InputCard[];
  /** An effect of each kind as one begins with it. */
  begun: readonly PixelEffect[];
  onChange: (then: (effect: PixelEffect) => void) => void;
}

/** What an effect is made of. */
export function EffectEditor({ at, effect, inputs, begun, onChange }: Props) {
  const { build } = useEditing();
  const specs = Object.fromEntries(fieldsAt(build, at));
  const most = specs["colours"]?.used ?? specs["colours"]?.most ?? Infinity;
  const colours = coloursOf(effect);
  const followed = "input" in effect ? effect.input : undefined;
  const rows = effect.kind === "table" ? effect.table : undefined;
  const fits = inputs.filter((input) => !rows || input.says.length > 0);
  const says = inputs.find((input) => input.input === followed)?.says ?? [];
  const backwards = "direction" in effect && effect.direction === -1;
  const paint = (next: Shares[]) => onChange((draft) => void ("colours" in specs && Object.assign(draft, { colours: next })));
  return (
    <>
      {specs["colours"] && (
        <Box display="flex" gap="2" flexWrap="wrap" alignItems="center" my="2" role="group" aria-label="Colours">
          {colours.slice(0, most).map((colour, index) => (
            <Box key={index} display="flex">
              <input
                type="color"
                aria-label={`Colour ${index + 1}`}
                value={hexOf(colour)}
                style={{ width: "2.6rem", height: "2.25rem", cursor: "pointer", background: "none" }}
                onChange={(event) => paint(colours.map((known, place) => (place === index ? sharesOf(event.target.value) : known)))}
              />
              {colours.length > 1 && (
                <IconButton
                  aria-label={`Remove colour ${index + 1}`}
                  size="xs"
                  minW="8"
                  minH="8"
                  variant="ghost"
                  onClick={() => paint(colours.filter((_, place) => place !== index))}
                >
                  <Icon name="remove" />
                </IconButton>
              )}
            </Box>
          ))}
          {colours.length < most && (
            <Button size="xs" minH="8" variant="outline" onClick={() => paint([...colours, BEGUN])}>
              Add a colour
            </Button>
          )}
        </Box>
      )}
      <Fields at={at} apart={["colours", "input", "direction"]}>
        {specs["input"] && (
          <Choice
            label={specs["input"].label ?? ""}
            value={followed ?? ""}
            options={fits.map((input) => [input.input, input.called] as const)}
            onChange={(next) =>
              onChange((draft) => {
                if (!("input" in draft)) return;
                draft.input = next as ShowInput;
                if (draft.kind !== "table") return;
                const words = inputs.find((input) => input.input === next)?.says ?? [];
                const { table } = draft;
                draft.table = words.map((word, index) => ({ word, ...(table[index] ? without(table[index]) : { colour: [0, 0, 0] as Shares }) }));
              })
            }
          />
        )}
      </Fields>
      {specs["direction"] && !specs["direction"].seldom && (
        <Button
          size="xs"
          minH="8"
          variant="outline"
          mt="2"
          aria-pressed={backwards}
          onClick={() => onChange((draft) => void Object.assign(draft, { direction: backwards ? 1 : -1 }))}
        >
          {backwards ? "runs towards the controller ←" : "runs away from the controller →"}
        </Button>
      )}
      {rows && says.map((word) => <Row key={word} at={at} word={word} rows={rows} inputs={inputs} begun={begun} onChange={onChange} />)}
    </>
  );
}

type TableRow = Extract<PixelEffect, { kind: "table" }>["table"][number];
type ShowInput = InputCard["input"];
/** The colour that one begins with. */
const BEGUN: Shares = [1, 0.42, 0.08];
const coloursOf = (effect: PixelEffect): Shares[] => (("colours" in effect && effect.colours) || [[1, 1, 1]]) as Shares[];
const without = (row: TableRow): Omit<TableRow, "word"> => (row.effect ? { effect: row.effect } : { colour: row.colour ?? [0, 0, 0] });

interface RowProps {
  at: string;
  word: string;
  rows: readonly TableRow[];
  inputs: readonly InputCard[];
  begun: readonly PixelEffect[];
  onChange: (then: (effect: PixelEffect) => void) => void;
}

/** What is shown at a word of an input. */
function Row({ at, word, rows, inputs, begun, onChange }: RowProps) {
  const index = rows.findIndex((row) => row.word === word);
  const row = rows[index];
  const write = (table: TableRow[]) => onChange((draft) => void Object.assign(draft, { table }));
  const put = (own: Omit<TableRow, "word">) => write([...rows.filter((known) => known.word !== word), { word, ...own }]);
  const shown = row?.effect ? coloursOf(row.effect) : [(row?.colour as Shares | undefined) ?? BEGUN];
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
            if (next === "same") write(rows.filter((known) => known.word !== word));
            else if (next === "colour") put({ colour: shown[0] });
            else {
              const effect = begun.find((known) => known.kind === next)!;
              put({ effect: "colours" in effect ? { ...effect, colours: shown } : effect });
            }
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
          begun={begun}
          onChange={(then) =>
            onChange((draft) => {
              const own = draft.kind === "table" && draft.table.find((known) => known.word === word)?.effect;
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
