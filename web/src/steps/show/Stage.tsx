import { Box } from "@chakra-ui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Build, ShowView } from "../../api/client";
import { Body } from "../../scene/Body";
import { type View, spot, useViews } from "../../scene/outlines";
import { ink } from "../../theme";
import { SCREEN, codes } from "../../base/linear";
import { SeenFrom } from "../../scene/SeenFrom";
import type { Player } from "./useShow";

/** What is seen of a drawing, as the vehicle's own picture has it. */
const SEEN = { x: -40, y: -12, width: 640, height: 320 };
/** Length of a piece whose place has no way of its own. */
const SHORT = 64;

/** Rings that a pixel's light fades through, widest first: opacity, and radius in pixels. */
const HALO = [
  [0.1, 3.6],
  [0.16, 2.3],
  [1, 1],
] as const;

type Point = readonly [number, number];

interface Piece {
  light: string;
  points: Point[];
}

interface Props {
  build: Build;
  view: ShowView | undefined;
  player: Player;
  arrives: boolean;
  selected: string | null;
  onPiece: (light: string) => void;
  /** Pieces that were clicked so far, while they are put in order. */
  order: readonly string[] | null;
}

/** Where every pixel is drawn, along the way of its place. */
function usePieces(build: Build, outline: View | undefined): Piece[] {
  return useMemo(() => {
    if (!outline) return [];
    const path = document.createElementNS("http://www.w3.org/2000/svg", "path");
    const taken: Record<string, number> = {};
    return build.lights.flatMap((light, index) => {
      if (light.load.kind !== "pixels") return [];
      const place = spot(outline, light.place, index);
      const neighbours = (taken[light.place] = (taken[light.place] ?? -1) + 1);
      path.setAttribute("d", place.along ?? `M${place.x - SHORT / 2} ${place.y}h${SHORT}`);
      const length = path.getTotalLength();
      const count = light.load.count;
      const points = Array.from({ length: count }, (_, pixel): Point => {
        const { x, y } = path.getPointAtLength((length * (pixel + 0.5)) / count);
        return [x, y + 12 * neighbours];
      });
      return [{ light: light.id, points }];
    });
  }, [build, outline]);
}

/** The vehicle at night with every pixel as it is lit, numbers and the data wire's way. */
export function Stage({ build, view, player, arrives, selected, onPiece, order }: Props) {
  const [seen, setSeen] = useState<View["seen"] | null>(null);
  const views = useViews(build.vehicle);
  const outline = views.find((view) => view.seen === seen) ?? views[0];
  const pieces = usePieces(build, outline);
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const { listen } = player;

  useEffect(() => {
    const [own, frame] = [canvas.current, box.current];
    const context = own?.getContext("2d");
    if (!own || !frame || !context) return;
    let redraw: (() => void) | undefined;
    const fit = () => {
      const { width, height } = frame.getBoundingClientRect();
      const dense = Math.min(window.devicePixelRatio, 2);
      own.width = Math.round(width * dense);
      own.height = Math.round(height * dense);
      redraw?.();
    };
    const watch = new ResizeObserver(fit);
    watch.observe(frame);
    const room = new Uint8Array(3 * Math.max(1, ...pieces.map((piece) => piece.points.length)));
    const stop = listen(({ played, frame }) => {
      redraw = () => {
        const scale = Math.min(own.width / SEEN.width, own.height / SEEN.height);
        const [left, upper] = [(own.width - scale * SEEN.width) / 2 - scale * SEEN.x, (own.height - scale * SEEN.height) / 2 - scale * SEEN.y];
        context.setTransform(1, 0, 0, 1, 0, 0);
        context.globalCompositeOperation = "source-over";
        context.clearRect(0, 0, own.width, own.height);
        context.globalCompositeOperation = "lighter";
        for (const piece of pieces) {
          const lit = played.lights.find((light) => light.light === piece.light);
          if (!lit) continue;
          const text = (arrives && lit.delivered) || lit.asked;
          const size = 3 * piece.points.length;
          if (text.length < 2 * size * (frame + 1)) continue;
          codes(text, 2 * size * frame, size, room);
          const gap = piece.points.length > 1 ? Math.hypot(piece.points[1]![0] - piece.points[0]![0], piece.points[1]![1] - piece.points[0]![1]) : 12;
          const core = scale * Math.min(4.5, Math.max(1.3, 0.4 * gap));
          for (let pixel = 0; pixel < piece.points.length; pixel++) {
            const [red, green, blue] = [SCREEN[room[3 * pixel]!]!, SCREEN[room[3 * pixel + 1]!]!, SCREEN[room[3 * pixel + 2]!]!];
            if (red + green + blue === 0) continue;
            const [x, y] = [left + scale * piece.points[pixel]![0], upper + scale * piece.points[pixel]![1]];
            context.fillStyle = `rgb(${red} ${green} ${blue})`;
            for (const [alpha, radius] of HALO) {
              context.globalAlpha = alpha;
              context.beginPath();
              context.arc(x, y, radius * core, 0, 6.2832);
              context.fill();
            }
          }
        }
        context.globalAlpha = 1;
      };
      redraw();
    });
    return () => {
      stop();
      watch.disconnect();
    };
  }, [listen, pieces, arrives]);

  const wired = (view?.chains ?? []).filter((chain) => chain.controller != null);
  const of = (id: string) => pieces.find((piece) => piece.light === id);
  const ends = (light: string, against: boolean): [Point, Point] | null => {
    const own = of(light);
    if (!own || own.points.length === 0) return null;
    const [first, last] = [own.points[0]!, own.points.at(-1)!];
    return against ? [last, first] : [first, last];
  };
  return (
    <Box className="dark" bg="bg" color="fg" position="relative" display="flex" flexDirection="column">
      {outline && <SeenFrom views={views} seen={outline.seen} onChange={setSeen} />}
      <Box ref={box} position="relative" w="100%" h={{ base: "15rem", md: "22rem" }}>
        <svg
          viewBox={`${SEEN.x} ${SEEN.y} ${SEEN.width} ${SEEN.height}`}
          role="group"
          aria-label={outline?.title ?? "The vehicle"}
          style={{ position: "absolute", width: "100%", height: "100%" }}
        >
          {outline && <Body view={outline} />}
          {wired.map((chain) => {
            // Data goes from the controller to each piece, out of its other end and on; a copy branches off where its first does.
            let from: Point = [outline?.pack.x ?? 0, outline?.pack.y ?? 0];
            let branch = from;
            let first = -1;
            return (
              <g key={chain.output} fill="none" stroke={ink.accent} strokeWidth="1.1" strokeDasharray="2 4" opacity="0.8">
                {chain.pieces.map((piece) => {
                  const way = ends(piece.light, piece.against);
                  if (!way) return null;
                  if (piece.first !== first) branch = from;
                  first = piece.first;
                  const [begin, end] = way;
                  from = end;
                  return <path key={piece.light} d={`M${branch[0]} ${branch[1]}L${begin[0]} ${begin[1]}`} />;
                })}
              </g>
            );
          })}
        </svg>
        <canvas ref={canvas} aria-hidden style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }} />
        <svg
          viewBox={`${SEEN.x} ${SEEN.y} ${SEEN.width} ${SEEN.height}`}
          role="group"
          aria-label="Pieces with their numbers"
          style={{ position: "absolute", width: "100%", height: "100%" }}
        >
          {pieces.map((piece) => {
            const told = view?.chains.flatMap((chain) => chain.pieces).find((one) => one.light === piece.light);
            const way = ends(piece.light, told?.against ?? false);
            if (!way) return null;
            const place = order?.indexOf(piece.light) ?? -1;
            const [begin, end] = way;
            const line = piece.points.map(([x, y]) => `${x} ${y}`).join("L");
            return (
              <g
                key={piece.light}
                role="button"
                tabIndex={0}
                aria-pressed={selected === piece.light}
                aria-label={`${piece.light}${told ? `, numbers ${told.first} to ${told.last}${told.against ? ", data from its far end" : ""}` : ""}`}
                style={{ cursor: "pointer" }}
                onClick={() => onPiece(piece.light)}
                onKeyDown={(event) => {
                  if (event.key === "Enter" || event.key === " ") {
                    event.preventDefault();
                    onPiece(piece.light);
                  }
                }}
              >
                <path d={`M${line}`} fill="none" stroke="transparent" strokeWidth="26" />
                <path className="ring" d={`M${line}`} fill="none" stroke={ink.accent} strokeWidth="2" />
                {selected === piece.light && <path d={`M${line}`} fill="none" stroke={ink.accent} strokeWidth="14" strokeLinecap="round" opacity="0.18" />}
                {told && order === null && (
                  <>
                    <Arrow from={begin} to={end} />
                    <Number at={begin} text={String(told.first)} bold />
                    {told.last > told.first && <Number at={end} text={String(told.last)} />}
                  </>
                )}
                {order !== null && <Number at={piece.points[Math.floor(piece.points.length / 2)]!} text={place < 0 ? "?" : String(place + 1)} bold />}
              </g>
            );
          })}
        </svg>
      </Box>
    </Box>
  );
}

/** Which way data runs through a piece, as its strip has it printed. */
function Arrow({ from, to }: { from: Point; to: Point }) {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
  if (length < 20) return null;
  const [x, y] = [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
  const [middle, aside] = [
    [(from[0] + to[0]) / 2 - 9 * y, (from[1] + to[1]) / 2 + 9 * x],
    [4 * x, 4 * y],
  ] as const;
  return (
    <path
      d={`M${middle[0] - 2 * aside[0]} ${middle[1] - 2 * aside[1]}l${4 * aside[0]} ${4 * aside[1]}m${-aside[0] - aside[1]} ${-aside[1] + aside[0]}l${aside[0] + aside[1]} ${aside[1] - aside[0]}l${-aside[0] + aside[1]} ${-aside[1] - aside[0]}`}
      fill="none"
      stroke={ink.accent}
      strokeWidth="1.3"
    />
  );
}

/** A number beside a pixel. */
function Number({ at, text, bold = false }: { at: Point; text: string; bold?: boolean }) {
  return (
    <text
      x={at[0]}
      y={at[1] - 9}
      fontSize="14"
      fontWeight={bold ? 700 : 400}
      textAnchor="middle"
      fill={bold ? ink.text : ink.muted}
      stroke={ink.ground}
      strokeWidth="3"
      paintOrder="stroke"
    >
      {text}
    </text>
  );
}
