import { useEffect, useRef } from "react";
import type { Diagram } from "../../api/client";

const INK: Record<string, string> = {
  red: "#f2564f",
  black: "currentColor",
  yellow: "#e2b93b",
  blue: "#5a97f2",
  brown: "#b07a4a",
  white: "#c9ccd3",
  green: "#4db36a",
};

/** A window on the drawing. */
export interface Part {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

interface Props {
  drawn: Diagram;
  /** Fitted to the width where there is none. */
  zoom?: number | null;
  selected?: string | null;
  onSelect?: (id: string | null) => void;
  /** Part of it. */
  part?: Part;
  /** In black on white. */
  paper?: boolean;
}

/** The wiring diagram, drawn. */
export function Drawing({ drawn, zoom = null, selected = null, onSelect, part, paper = false }: Props) {
  const chosen = useRef<SVGGElement>(null);
  // Whatever is picked elsewhere is brought into view here.
  useEffect(() => {
    if (selected) chosen.current?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [selected, zoom]);
  const { left, right, top, bottom } = part ?? { left: 0, right: drawn.width, top: 0, bottom: drawn.height };
  // What is beyond the window is not walked by keyboard either.
  const shown = drawn.boxes.filter((box) => box.x < right && box.x + box.w > left && box.y < bottom && box.y + box.h > top);
  const isOn = (feed: string) => selected !== null && feed.split("#")[0] === selected;
  const dim = (feed: string) => (selected === null || isOn(feed) ? 1 : 0.45);
  return (
    <svg
      viewBox={`${left} ${top} ${right - left} ${bottom - top}`}
      width={zoom === null ? "100%" : (right - left) * zoom}
      role="group"
      aria-label={`${shown.length} parts, ${drawn.wires.length} conductors`}
      style={{ fontSize: 11, display: "block", minWidth: zoom === null && !paper ? "40rem" : undefined }}
    >
      {drawn.bars.map((bar) => (
        <g key={`${bar.of} ${bar.plus}`} stroke="currentColor" fill="currentColor">
          <polyline points={bar.points.map((point) => point.join()).join(" ")} fill="none" strokeWidth="2.5" strokeDasharray={bar.plus ? undefined : "9 3"} />
          {bar.dots.map((dot) => (
            <circle key={dot.join()} cx={dot[0]} cy={dot[1]} r="3.5" stroke="none" />
          ))}
        </g>
      ))}
      {drawn.wires.map((wire) => (
        <path
          key={`${wire.feed} ${wire.plus}`}
          d={wayOf(wire)}
          fill="none"
          stroke={INK[wire.colour] ?? "currentColor"}
          strokeWidth={isOn(wire.feed) ? 4 : 2}
          strokeDasharray={wire.plus ? undefined : "9 3"}
          opacity={dim(wire.feed)}
        />
      ))}
      {drawn.symbols.map((symbol) => (
        <g
          key={`${symbol.kind} ${symbol.feed}`}
          transform={`translate(${symbol.x} ${symbol.y})`}
          stroke="currentColor"
          strokeWidth="1.5"
          fill={paper ? "white" : "var(--chakra-colors-bg)"}
        >
          <title>{`${symbol.kind} of ${symbol.feed}`}</title>
          <SymbolShape kind={symbol.kind} />
        </g>
      ))}
      {drawn.texts.map((text, index) => (
        <text key={index} x={text.x} y={text.y + 9} fill="currentColor" textLength={text.w} lengthAdjust="spacingAndGlyphs" opacity={dim(text.feed)}>
          {text.text}
        </text>
      ))}
      {shown.map((box) => (
        <g
          key={box.id}
          ref={selected === box.id ? chosen : undefined}
          {...(onSelect && {
            role: "button",
            tabIndex: 0,
            "aria-label": box.lines.join(", "),
            "aria-pressed": selected === box.id,
            style: { cursor: "pointer" },
            onClick: () => onSelect(selected === box.id ? null : box.id),
            onKeyDown: (event: React.KeyboardEvent) => {
              if (event.key !== "Enter" && event.key !== " ") return;
              event.preventDefault();
              onSelect(selected === box.id ? null : box.id);
            },
          })}
        >
          <rect
            x={box.x}
            y={box.y}
            width={box.w}
            height={box.h}
            rx="4"
            fill={paper ? "white" : "var(--chakra-colors-bg-subtle)"}
            stroke={selected === box.id ? "var(--chakra-colors-lantern-solid)" : "currentColor"}
            strokeWidth={selected === box.id ? 3 : 1.5}
          />
          {box.lines.map((line, number) => (
            <text key={line} x={box.x + box.w / 2} y={box.y + 26 + 15 * number} textAnchor="middle" fill="currentColor" fontWeight={number === 0 ? 700 : 400}>
              {line}
            </text>
          ))}
          {box.terminals.map((terminal, index) => (
            <g key={index} fill="currentColor" style={{ fontSize: 11 }}>
              <circle cx={terminal.x} cy={terminal.y} r="2.5" />
              {terminal.name === "DIN" ? (
                <text x={terminal.x} y={terminal.y - 6} textAnchor="middle">
                  {terminal.name}
                </text>
              ) : (
                <text x={terminal.x <= box.x ? terminal.x + 5 : terminal.x - 5} y={terminal.y + 4} textAnchor={terminal.x <= box.x ? "start" : "end"}>
                  {terminal.name}
                </text>
              )}
            </g>
          ))}
        </g>
      ))}
    </svg>
  );
}

const JUMP = 4;

/** A conductor with a bow over each that it crosses. */
function wayOf(wire: Diagram["wires"][number]): string {
  const [from, to] = [wire.points[0]!, wire.points.at(-1)!];
  const y = from[1]!;
  const bows = wire.jumps.map((jump) => `L${jump[0]! - JUMP} ${y} A${JUMP} ${JUMP} 0 0 1 ${jump[0]! + JUMP} ${y}`);
  return `M${from[0]} ${y} ${bows.join(" ")} L${to[0]} ${y}`;
}

function SymbolShape({ kind }: { kind: Diagram["symbols"][number]["kind"] }) {
  switch (kind) {
    case "fuse":
      return (
        <>
          <rect x="-14" y="-5" width="28" height="10" />
          <path d="M-14 0 H14" />
        </>
      );
    case "switch":
      return (
        <>
          <rect x="-14" y="-3" width="28" height="6" stroke="none" />
          <path d="M-14 0 L11 -11" fill="none" />
          <circle cx="-14" cy="0" r="2" />
          <circle cx="14" cy="0" r="2" />
        </>
      );
    case "plug":
      return (
        <>
          <rect x="-9" y="-3" width="18" height="6" stroke="none" />
          <path d="M-9 0 H1" strokeWidth="4" />
          <path d="M10 -7 A7 7 0 0 0 10 7" fill="none" />
        </>
      );
    case "frame":
      return <path d="M0 0 V8 M-8 8 H8 M-8 8 l-4 6 M0 8 l-4 6 M8 8 l-4 6" fill="none" />;
  }
}
