import { Box } from "@chakra-ui/react";
import { memo, useState } from "react";
import type { Picture, VehicleKind } from "../api/client";
import { capital } from "../document/fields";
import { ink } from "../theme";
import { SeenFrom } from "./SeenFrom";
import { share } from "../units";
import { Glows, shining } from "./Glows";
import { formOf } from "./outlines";
import { placeLabels } from "./labels";

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
  const [above, setAbove] = useState(false);
  const [side, top] = formOf({ kind, variant }).views;
  const outline = ((above && top) || side)!;
  const { pack } = outline;
  const supply = picture?.reaches[0]?.name ?? "battery";
  const lights = shining(outline, picture?.glows ?? []);
  const free = onPlace ? outline.places.filter((known) => !lights.some(({ glow }) => glow.place === known.name)) : [];
  const labels = placeLabels(
    [...lights.map(({ glow, x, y }) => ({ id: glow.id, x, y, radius: 9 })), ...free.map(({ name, x, y }) => ({ id: `place ${name}`, x, y, radius: 11 }))],
    [{ id: "pack", x: pack.x, y: pack.y, radius: 17 }],
    SEEN,
  );
  // A window into the night in either theme: on paper no light would shine.
  return (
    <Box className="dark" bg="bg" color="fg" flex="1" minH="0" display="flex" flexDirection="column" position="relative">
      {top && <SeenFrom above={above} onChange={setAbove} />}
      <Box as="h2" fontWeight="semibold" px="4" pt="3" pr={top ? "40" : undefined}>
        {outline.title}{" "}
        <Box as="span" fontWeight="normal" color="fg.muted" fontSize="xs">
          {hint ? `at night; ${hint}` : "at night"}
        </Box>
      </Box>
      <Box flex="1" minH="13rem" position="relative">
        <svg
          viewBox="-40 -12 640 320"
          role="group"
          aria-label={outline.title}
          style={{ position: "absolute", width: "100%", height: "100%", overflow: "visible" }}
        >
          <Glows lights={lights} of="glow" blink={blink} />
          <g fill="none" stroke={ink.line} strokeLinejoin="round" strokeLinecap="round">
            <path d={outline.detail} strokeWidth="1.3" opacity="0.6" />
            <path d={outline.body} strokeWidth="2.4" />
          </g>
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
                      <text
                        x={labels.get(`place ${known.name}`)?.x}
                        y={labels.get(`place ${known.name}`)?.y}
                        fontSize="14"
                        textAnchor={labels.get(`place ${known.name}`)?.anchor}
                        fill={ink.muted}
                        stroke={ink.ground}
                        strokeWidth="3"
                        paintOrder="stroke"
                      >
                        {known.name}
                      </text>
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
            const label = labels.get(glow.id);
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
                <text
                  x={label?.x}
                  y={label?.y}
                  fontSize="15"
                  textAnchor={label?.anchor}
                  fill={ink.text}
                  stroke={ink.ground}
                  strokeWidth="3.5"
                  paintOrder="stroke"
                >
                  {glow.id}
                </text>
              </g>
            );
          })}
        </svg>
      </Box>
    </Box>
  );
});
