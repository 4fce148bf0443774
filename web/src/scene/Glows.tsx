import type { Glow } from "../api/client";
import { lightColour } from "../theme";
import { type Point, middleOf, pathOf, pointsOf, spread } from "./along";
import { type View, spot } from "./outlines";

/** A light with where and how it shines on an outline. */
export interface Shining {
  glow: Glow;
  x: number;
  y: number;
  colour: string;
  /** The way it shines along, of strips and pixels, as long as they are. */
  along?: Point[] | undefined;
  /** Its LEDs one by one, where they are far enough apart to be told from each other. */
  points?: Point[] | undefined;
}

/** LEDs closer than this are a line on the drawing. */
const TOLD_APART = 5;

/** Room that the battery's own picture takes, to each side. */
const PACK = 32;
/** Between two lights that share a place. */
const APART = 26;

/** Lights at their places; those of one place stand side by side, on a line across the way to the battery. */
export function shining(outline: View, glows: readonly Glow[]): Shining[] {
  const taken: Record<string, number> = {};
  return glows.map((glow, index) => {
    const place = spot(outline, glow.place, index);
    const key = `${place.x},${place.y}`;
    const neighbours = (taken[key] = (taken[key] ?? -1) + 1);
    // The second above the first, the third below it, and so on.
    const aside = APART * Math.ceil(neighbours / 2) * (neighbours % 2 === 1 ? -1 : 1);
    const { pack } = outline;
    const level = Math.abs(place.x - pack.x) >= Math.abs(place.y - pack.y);
    const [x, y] = level ? [place.x, place.y + aside] : [place.x + aside, place.y];
    // Where the battery is behind a place, the light stands beside it.
    const hidden = Math.abs(x - pack.x) < PACK && Math.abs(y - pack.y) < PACK;
    return {
      glow,
      x,
      y: hidden ? pack.y + (y > pack.y ? PACK : -PACK) : y,
      colour: lightColour(glow.colour, glow.rgb),
      ...rowOf(outline, glow, place.along),
    };
  });
}

/** A strip or pixels along a place, to the scale of the drawing. */
function rowOf(outline: View, glow: Glow, along: string | null | undefined): Pick<Shining, "along" | "points"> {
  if (!glow.along || !along) return {};
  const way = middleOf(pointsOf(along), (glow.row_m ?? Infinity) * outline.per_m);
  const pitch = (glow.pitch_m ?? 0) * outline.per_m;
  const count = glow.row_m && glow.pitch_m ? Math.round(glow.row_m / glow.pitch_m) : 0;
  return { along: way, points: pitch >= TOLD_APART && count > 1 ? spread(way, count) : undefined };
}

/** Widths and opacities of the rings that a strip's light fades through. */
const HALO = [
  [58, 0.04],
  [46, 0.05],
  [36, 0.06],
  [27, 0.08],
  [19, 0.11],
  [12, 0.18],
  [7, 0.35],
] as const;

/** The light itself, as bright as the solver says; `of` tells pictures on one page apart. */
export function Glows({ lights, of, blink = false }: { lights: readonly Shining[]; of: string; blink?: boolean }) {
  return (
    <>
      <defs>
        {lights.map(({ glow, colour }) => (
          <radialGradient key={glow.id} id={`${of}-${glow.id}`}>
            <stop offset="0" stopColor={colour} stopOpacity="0.95" />
            <stop offset="0.25" stopColor={colour} stopOpacity="0.5" />
            <stop offset="1" stopColor={colour} stopOpacity="0" />
          </radialGradient>
        ))}
      </defs>
      {lights.map(({ glow, x, y, along, points, colour }) => {
        const bright = Math.min(Math.max(glow.output, 0), 1.3);
        const moves = blink && glow.duty < 1 ? "blink" : undefined;
        if (bright > 0 && along) {
          const path = pathOf(along);
          return (
            <g key={glow.id} className={moves} fill="none" stroke={colour} strokeLinecap="round" strokeLinejoin="round">
              {/* Wide and faint to narrow and bright: a halo without a filter, which would be drawn anew at every keystroke. */}
              {HALO.map(([width, opacity]) => (
                <path key={width} d={path} strokeWidth={width * (0.4 + 0.6 * Math.sqrt(bright))} opacity={opacity * Math.min(1, 0.3 + bright)} />
              ))}
              {points ? (
                <path
                  d={points.map(([px, py]) => `M${px.toFixed(1)} ${py.toFixed(1)}h0`).join("")}
                  strokeWidth="4"
                  opacity={0.35 + 0.65 * Math.min(bright, 1)}
                />
              ) : (
                <path d={path} strokeWidth="2.5" opacity={0.35 + 0.65 * Math.min(bright, 1)} />
              )}
            </g>
          );
        }
        return bright > 0 ? (
          <circle
            key={glow.id}
            className={moves}
            cx={x}
            cy={y}
            r={18 + 48 * Math.sqrt(bright)}
            fill={`url(#${of}-${glow.id})`}
            opacity={0.25 + 0.7 * Math.min(bright, 1)}
          />
        ) : null;
      })}
    </>
  );
}
