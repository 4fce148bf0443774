import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { type Build, type Fitted, answer, api, problemOf } from "../../api/client";
import { Figure } from "../../job/Figure";
import { saveFile } from "../../base/save";
import { inOwn, millimetres, read, shownIn } from "../../units";
import { useFit } from "./useFit";

type Fit = Fitted["fit"];
type Cavity = Fit["spaces"][number];
type Housed = Fit["placed"][number];

interface Props {
  build: Build;
  selected: string | null;
  onSelect: (id: string | null) => void;
}

/** Millimetres, several with one unit, in the person's own. */
const inLengths = (sizes: readonly number[], between: string) => {
  const unit = millimetres();
  return `${sizes.map((size) => Number(shownIn(size, unit).toFixed(unit.name === "mm" ? 0 : 1))).join(between)} ${unit.name}`;
};
const sides = (sizes: readonly number[]) => inLengths(sizes, " × ");

/** What goes where, drawn from three sides, what does not and by how much; and what it weighs. */
export function FitView({ build, selected, onSelect }: Props) {
  const asked = useFit(build);
  const csv = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/make/csv", { body: { of: { document: build }, table: "fit" }, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${build.name} - fit.csv`, "text/csv", text as string),
  });
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return null;
  const { fit, balance } = asked.data;
  return (
    <>
      {fit.spaces.length > 0 && (
        <Box as="section" aria-label="What goes where">
          <Box display="flex" gap="3" alignItems="baseline" mb="1">
            <Box as="h2" fontSize="lg" fontWeight="semibold">
              Does it fit?
            </Box>
            <Box fontWeight="semibold" color={fit.left.length > 0 ? "stop.fg" : fit.placed.length === 0 ? "fg.muted" : "good.fg"}>
              {fit.left.length > 0
                ? `✕ ${fit.left.length} of ${fit.left.length + fit.placed.length} parts ${fit.left.length === 1 ? "has" : "have"} no place`
                : fit.placed.length === 0
                  ? "Nothing goes in there yet"
                  : `✓ ${fit.placed.length === 1 ? "its one part has" : `all ${fit.placed.length} parts have`} a place`}
            </Box>
            <Box ml="auto">
              <Button size="xs" minH="8" variant="outline" aria-label="CSV of what goes where" loading={csv.isPending} onClick={() => csv.mutate()}>
                CSV
              </Button>
            </Box>
          </Box>
          {fit.left.map((one) => (
            <Box key={one.part} color="stop.fg">
              ✕ <b>{one.part}</b>: {inOwn(one.why)}
            </Box>
          ))}
          {fit.unsized_parts.length > 0 && (
            <Box color="fix.fg">
              ! The size of {fit.unsized_parts.join(", ")} is not known. Measure {fit.unsized_parts.length === 1 ? "it" : "them"}.
            </Box>
          )}
          {!fit.certain && <Box color="fix.fg">! Perhaps there is a way that puts more of them in; none was found.</Box>}
          {fit.spaces.map((space) => (
            <Views key={space.id} space={space} parts={fit.placed.filter((one) => one.space === space.id)} selected={selected} onSelect={onSelect} />
          ))}
          <Box color="fg.muted" fontSize="xs" mt="2">
            {inOwn(
              "To scale. Around each part 1 mm of air, 5 mm around what gets hotter than 60 °C; dotted is the room in which its wires turn, six times their thickness.",
            )}
          </Box>
        </Box>
      )}
      {balance && (
        <Box as="section" aria-label="Balance">
          <Box as="h2" fontSize="lg" fontWeight="semibold" mb="1">
            Balance
          </Box>
          <Box mb="2">{balance.meaning}</Box>
          <dl className="readout">
            {balance.facts.map((fact) => (
              <div key={fact.key}>
                <dt>{fact.label}</dt>
                <dd>
                  <Figure label={fact.label} text={read(fact)} working={fact.working} />
                </dd>
              </div>
            ))}
          </dl>
        </Box>
      )}
    </>
  );
}

/** Which two sides each view shows. */
const VIEWS = [
  { name: "from above", across: 0, down: 1, flip: false },
  { name: "from the front", across: 0, down: 2, flip: true },
  { name: "from the side", across: 1, down: 2, flip: true },
] as const;

interface ViewsProps {
  space: Cavity;
  parts: readonly Housed[];
  selected: string | null;
  onSelect: (id: string | null) => void;
}

/** One cavity from above, from the front and from the side. */
function Views({ space, parts, selected, onSelect }: ViewsProps) {
  // Letters tell the parts apart where their names do not fit.
  const letter = (index: number) => String.fromCharCode(65 + (index % 26));
  const widths = VIEWS.map((view) => space.size_mm[view.across]!);
  const all = widths.reduce((sum, width) => sum + width, 0);
  return (
    <Box className="card" mb="2">
      <Box display="flex" flexWrap="wrap" gap="3" alignItems="baseline" mb="2">
        <b>{space.id}</b>
        <Box as="span" color="fg.muted" fontSize="sm">
          {sides(space.size_mm)} · {Math.round(100 * space.filled)} % full · {inOwn(`air up to ${Math.round(space.air_c)} °C`)}
          {space.cells ? " · battery cells beside it" : ""}
        </Box>
      </Box>
      <Box display="flex" gap="4" alignItems="flex-start">
        {VIEWS.map((view, number) => (
          <Box key={view.name} style={{ flex: `0 1 ${(100 * widths[number]!) / all}%` }} minW="0">
            <View view={view} space={space} parts={parts} selected={selected} letter={letter} all={all} />
            <Box fontSize="xs" color="fg.muted">
              {view.name}
            </Box>
          </Box>
        ))}
      </Box>
      <Box display="grid" gap="1" mt="2">
        {parts.map((one, index) => (
          <button
            key={one.part}
            type="button"
            className="plain"
            aria-pressed={selected === one.part}
            style={{ textAlign: "left", minHeight: "2rem" }}
            onClick={() => onSelect(selected === one.part ? null : one.part)}
          >
            <Box as="span" color={selected === one.part ? "lantern.fg" : undefined}>
              <b>{letter(index)}</b> {one.part}
            </Box>{" "}
            <Box as="span" color="fg.muted" fontSize="sm">
              {sides(one.size_mm)}, {inLengths(one.at_mm, ", ")} from the corner · {inOwn(`${Math.round(one.surface_c)} °C`)}
            </Box>
            {one.hot && (
              <Box as="span" color="fix.fg" fontSize="sm">
                {" "}
                {inOwn("! hot: 5 mm of air around it")}
              </Box>
            )}
          </button>
        ))}
        {parts.length === 0 && <Box color="fg.muted">Nothing goes in here.</Box>}
      </Box>
    </Box>
  );
}

interface ViewProps {
  view: (typeof VIEWS)[number];
  space: Cavity;
  parts: readonly Housed[];
  selected: string | null;
  letter: (index: number) => string;
  /** Width of all views side by side, mm. */
  all: number;
}

/** Letters that can be read have room side by side for so many in all views together. */
const LETTERS = 36;

function View({ view, space, parts, selected, letter, all }: ViewProps) {
  const { across, down, flip } = view;
  const [width, height] = [space.size_mm[across]!, space.size_mm[down]!];
  const size = Math.max(...space.size_mm);
  const line = size / 300;
  const box = (at: readonly number[], sides: readonly number[]) => ({
    x: at[across]!,
    y: flip ? height - at[down]! - sides[down]! : at[down]!,
    width: sides[across]!,
    height: sides[down]!,
  });
  return (
    <svg
      viewBox={`${-line} ${-line} ${width + 2 * line} ${height + 2 * line}`}
      width="100%"
      style={{ display: "block", maxHeight: "16rem" }}
      preserveAspectRatio="xMinYMin meet"
      role="img"
      aria-label={`${space.id} ${view.name}: ${parts.map((one) => one.part).join(", ") || "empty"}`}
    >
      <rect x="0" y="0" width={width} height={height} fill="none" stroke="currentColor" strokeWidth={2 * line} />
      {parts.map((one, index) => {
        const on = selected === one.part;
        const own = box(one.at_mm, one.size_mm);
        // Never too small to read, though it may then stand over its edge.
        const text = Math.max(Math.min(own.width, own.height, size / 9) * 0.75, all / LETTERS);
        return (
          <g key={one.part}>
            <rect {...box(one.room_at_mm, one.room_mm)} fill="none" stroke="currentColor" strokeWidth={line} strokeDasharray={`${2 * line} ${3 * line}`} />
            <rect
              {...own}
              fill={one.hot ? "var(--chakra-colors-fix-subtle, var(--chakra-colors-bg-emphasized))" : "var(--chakra-colors-bg-emphasized)"}
              stroke={on ? "var(--chakra-colors-lantern-solid)" : "currentColor"}
              strokeWidth={on ? 3 * line : 1.5 * line}
            />
            <text
              x={own.x + own.width / 2}
              y={own.y + own.height / 2 + text * 0.35}
              textAnchor="middle"
              style={{ fontSize: `${text}px` }}
              fontWeight="700"
              fill="currentColor"
            >
              {letter(index)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
