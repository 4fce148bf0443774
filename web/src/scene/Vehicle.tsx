import { Box } from "@chakra-ui/react";
import { memo, useState } from "react";
import type { Picture, VehicleKind } from "../api/client";
import { capital } from "../document/fields";
import { ink } from "../theme";
import { SeenFrom } from "./SeenFrom";
import { share } from "../units";
import { Glows, shining } from "./Glows";
import { Body } from "./Body";
import { type View, useViews } from "./outlines";
import { type Point, closeOn } from "./along";
import { type Label, placeLabels } from "./labels";
import { useLetters } from "./useLetters";

interface Props {
  kind: VehicleKind;
  variant?: string | null;
  picture: Picture | null;
  selected: string | null;
  onSelect: (id: string) => void;
  /** The chosen place. */
  place: string | null;
  /** Choosing a place, while places or lights are being worked on. */
  onPlace?: (place: string) => void;
  /** What a click does, where it is not a place that is chosen. */
  hint?: string;
  /** Whether blinking lights blink: about once a second, never for those who asked for less motion. */
  blink: boolean;
}

/** What is seen of a drawing. */
const SEEN = { left: -36, right: 596, top: -8, bottom: 304 };

const enter = (event: React.KeyboardEvent, act: () => void) => {
  if (event.key === "Enter" || event.key === " ") {
    event.preventDefault();
    act();
  }
};

/** The vehicle at night, its lights as bright as the solver says. A blinking light is shown steady. */
export const Vehicle = memo(function Vehicle({ kind, variant, picture, selected, onSelect, place: chosen, onPlace, hint, blink }: Props) {
  const [seen, setSeen] = useState<View["seen"] | null>(null);
  const views = useViews({ kind, variant });
  const [drawing, size] = useLetters();
  const outline = views.find((view) => view.seen === seen) ?? views[0];
  if (!outline) return <Box className="dark" bg="bg" flex="1" minH="16rem" />;
  const { pack } = outline;
  const supply = picture?.reaches[0]?.name ?? "battery";
  const lights = shining(outline, picture?.glows ?? []);
  const free = onPlace ? outline.places.filter((known) => !lights.some(({ glow }) => glow.place === known.name)) : [];
  const wires = lights.map(({ x, y }) => ({ x, y, bend: (pack.x + x) / 2 }));
  const lines = [
    ...lights.flatMap(({ along }) => (along ? closeOn(along) : [])),
    ...wires.flatMap(({ x, y, bend }) => curve([pack.x, pack.y], [bend, pack.y], [bend, y], [x, y])),
  ];
  const labels = placeLabels(
    [...lights.map(({ glow, x, y }) => ({ id: glow.id, x, y, radius: 9 })), ...free.map(({ name, x, y }) => ({ id: name, x, y, radius: 12 }))],
    [{ id: "pack", x: pack.x, y: pack.y, radius: 23 }],
    SEEN,
    size,
    lines,
  );
  // A window into the night in either theme: on paper no light would shine.
  return (
    <Box className="dark" bg="bg" color="fg" flex="1" minH="0" display="flex" flexDirection="column" position="relative">
      <SeenFrom views={views} seen={outline.seen} onChange={setSeen} />
      <Box as="h2" fontWeight="semibold" px="4" pt="3" pr="14rem">
        {outline.title}{" "}
        <Box as="span" fontWeight="normal" color="fg.muted" fontSize="xs">
          {hint ? `at night; ${hint}` : "at night"}
        </Box>
      </Box>
      <Box flex="1" minH="13rem" position="relative">
        <svg
          ref={drawing}
          viewBox="-40 -12 640 320"
          role="group"
          aria-label={outline.title}
          style={{ position: "absolute", width: "100%", height: "100%", overflow: "visible" }}
        >
          <Body view={outline} />
          <Glows lights={lights} of="glow" blink={blink} />
          {lights.map(({ glow, x, y }) => {
            const bend = (pack.x + x) / 2;
            return (
              <path
                key={glow.id}
                d={`M${pack.x} ${pack.y}C${bend} ${pack.y} ${bend} ${y} ${x} ${y}`}
                fill="none"
                stroke={ink.accent}
                strokeWidth={selected === glow.id ? 2 : 1.1}
                strokeDasharray="2 4"
                opacity={selected === glow.id ? 1 : 0.75}
              />
            );
          })}
          {onPlace &&
            outline.places.map((known) => {
              const on = known.name === chosen;
              const used = lights.some(({ glow }) => glow.place === known.name);
              return (
                <g
                  key={known.name}
                  role="button"
                  tabIndex={0}
                  aria-label={`Place: ${known.name}${used ? ", lit" : ""}`}
                  aria-pressed={on}
                  style={{ cursor: "pointer" }}
                  onClick={() => onPlace(known.name)}
                  onKeyDown={(event) => enter(event, () => onPlace(known.name))}
                >
                  <circle cx={known.x} cy={known.y} r="18" fill="transparent" />
                  <circle className="ring" cx={known.x} cy={known.y} r="15" fill="none" stroke={ink.accent} strokeWidth="2" />
                  <circle
                    cx={known.x}
                    cy={known.y}
                    r="11"
                    fill={ink.ground}
                    fillOpacity="0.6"
                    stroke={on ? ink.accent : ink.line}
                    strokeWidth={on ? 2.5 : 1.3}
                    strokeDasharray={used ? undefined : "3 3"}
                  />
                  {!used && (
                    <>
                      <path d={`M${known.x - 4} ${known.y}h8M${known.x} ${known.y - 4}v8`} stroke={on ? ink.accent : ink.text} strokeWidth="1.6" />
                      <Name text={known.name} label={labels.get(known.name)} size={size} quiet />
                    </>
                  )}
                </g>
              );
            })}
          <g
            role="button"
            tabIndex={0}
            aria-label={capital(supply)}
            aria-pressed={selected === "source"}
            style={{ cursor: "pointer" }}
            onClick={() => onSelect("source")}
            onKeyDown={(event) => enter(event, () => onSelect("source"))}
          >
            <circle cx={pack.x} cy={pack.y} r="20" fill="transparent" />
            <circle className="ring" cx={pack.x} cy={pack.y} r="22" fill="none" stroke={ink.accent} strokeWidth="2" />
            <rect
              x={pack.x - 16}
              y={pack.y - 9}
              width="30"
              height="18"
              rx="3"
              fill={ink.ground}
              stroke={selected === "source" ? ink.accent : ink.line}
              strokeWidth="2"
            />
            <rect x={pack.x + 14} y={pack.y - 4} width="4" height="8" rx="1" fill={selected === "source" ? ink.accent : ink.line} />
            <path d={`M${pack.x - 11} ${pack.y}h7M${pack.x + 2} ${pack.y}h7M${pack.x + 5.5} ${pack.y - 3.5}v7`} stroke={ink.text} strokeWidth="1.6" />
          </g>
          {lights.map(({ glow, x, y, colour }) => {
            const lit = glow.output > 0.005;
            return (
              <g
                key={glow.id}
                role="button"
                tabIndex={0}
                aria-pressed={selected === glow.id}
                aria-label={`${glow.id}${glow.place ? ` at ${glow.place}` : ""}: ${lit ? `${share(glow.output)} bright${glow.duty < 1 ? ", blinking" : ""}` : "off"}`}
                style={{ cursor: "pointer" }}
                onClick={() => onSelect(glow.id)}
                onKeyDown={(event) => enter(event, () => onSelect(glow.id))}
              >
                <circle cx={x} cy={y} r="17" fill="transparent" />
                <circle className="ring" cx={x} cy={y} r="14" fill="none" stroke={ink.accent} strokeWidth="2" />
                <circle
                  cx={x}
                  cy={y}
                  r={selected === glow.id ? 8.5 : 6.5}
                  fill={lit ? colour : ink.ground}
                  stroke={selected === glow.id ? ink.accent : ink.line}
                  strokeWidth="2"
                />
                <Name text={glow.id} label={labels.get(glow.id)} size={size} />
              </g>
            );
          })}
        </svg>
      </Box>
    </Box>
  );
});

/** Points close together along a curve of four points. */
function curve(a: Point, b: Point, c: Point, d: Point): Point[] {
  return Array.from({ length: 17 }, (_, step) => {
    const t = step / 16;
    const [p, q, r, s] = [(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t ** 3];
    return [p * a[0] + q * b[0] + r * c[0] + s * d[0], p * a[1] + q * b[1] + r * c[1] + s * d[1]];
  });
}

/** A name on the drawing, with a line to its thing where it stands apart. */
function Name({ text, label, size, quiet }: { text: string; label: Label | undefined; size: number; quiet?: boolean }) {
  if (!label) return null;
  return (
    <>
      {label.from && (
        <path
          d={`M${label.from[0]} ${label.from[1]}L${label.x} ${label.y - 0.3 * size}`}
          stroke={quiet ? ink.muted : ink.text}
          strokeWidth="0.8"
          opacity="0.7"
        />
      )}
      <text
        x={label.x}
        y={label.y}
        style={{ fontSize: `${size}px` }}
        textAnchor={label.anchor}
        fill={quiet ? ink.muted : ink.text}
        stroke={ink.ground}
        strokeWidth="3.5"
        paintOrder="stroke"
      >
        {text}
      </text>
    </>
  );
}
