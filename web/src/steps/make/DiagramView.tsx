import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type Diagram, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../build/useSolved";
import { saveFile } from "../../ui/save";

const INK: Record<string, string> = {
  red: "#f2564f",
  black: "var(--chakra-colors-fg)",
  yellow: "#e2b93b",
  blue: "#5a97f2",
  brown: "#b07a4a",
  white: "#c9ccd3",
  green: "#4db36a",
};

interface Props {
  build: Build;
  selected: string | null;
  onSelect: (id: string | null) => void;
}

const ZOOMS = [0.5, 0.7, 1, 1.4, 2];

/** The wiring diagram: any conductor found in seconds, by hand, eye or keyboard. */
export function DiagramView({ build, selected, onSelect }: Props) {
  const asked = useQuery({
    queryKey: ["diagram", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/diagram", { body: { document: build }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  // Large enough to read; fitted to the width where someone wants to see all of it.
  const [zoom, setZoom] = useState<number | null>(1);
  const save = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/diagram/svg", { body: { document: build }, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${build.name} - diagram.svg`, "image/svg+xml", text as string),
  });
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return <p className="quiet">Drawing …</p>;
  const drawn = asked.data;
  const step = (by: number) => {
    const at = ZOOMS.indexOf(zoom ?? 0.7);
    setZoom(ZOOMS[Math.max(0, Math.min(ZOOMS.length - 1, at + by))]!);
  };
  return (
    <Box as="section" aria-label="Wiring diagram">
      <Box display="flex" flexWrap="wrap" gap="2" alignItems="center" mb="2">
        <Box as="h2" fontSize="lg" fontWeight="semibold">
          Wiring diagram
        </Box>
        <Box color="fg.muted" fontSize="sm">
          {drawn.crossings === 0 ? "nothing crosses" : drawn.crossings === 1 ? "one crossing" : `${drawn.crossings} crossings`}
        </Box>
        <Box ml="auto" display="flex" gap="2">
          <Button size="sm" minH="9" variant="outline" aria-label="Smaller" onClick={() => step(-1)}>
            −
          </Button>
          <Button size="sm" minH="9" variant="outline" aria-pressed={zoom === null} onClick={() => setZoom(null)}>
            Fit
          </Button>
          <Button size="sm" minH="9" variant="outline" aria-label="Larger" onClick={() => step(1)}>
            +
          </Button>
          <Button size="sm" minH="9" variant="outline" loading={save.isPending} onClick={() => save.mutate()}>
            SVG
          </Button>
        </Box>
      </Box>
      <Box className="card" p="0" overflow="auto" maxH={{ md: "calc(100vh - 12rem)" }} tabIndex={0} role="region" aria-label="The drawing, to be scrolled">
        <Drawing drawn={drawn} zoom={zoom} selected={selected} onSelect={onSelect} />
      </Box>
      <Box color="fg.muted" fontSize="xs" mt="2">
        Solid is plus, dashed is minus; colours are those of the insulation. Tab walks the parts, Enter picks one here, on the vehicle and on the river.
      </Box>
    </Box>
  );
}

interface DrawingProps {
  drawn: Diagram;
  zoom: number | null;
  selected: string | null;
  onSelect: (id: string | null) => void;
}

function Drawing({ drawn, zoom, selected, onSelect }: DrawingProps) {
  const isOn = (feed: string) => selected !== null && feed.split("#")[0] === selected;
  const dim = (feed: string) => (selected === null || isOn(feed) ? 1 : 0.45);
  return (
    <svg
      viewBox={`0 0 ${drawn.width} ${drawn.height}`}
      width={zoom === null ? "100%" : drawn.width * zoom}
      role="group"
      aria-label={`${drawn.boxes.length} parts, ${drawn.wires.length} conductors`}
      fontSize="11"
      style={{ display: "block", minWidth: zoom === null ? "40rem" : undefined }}
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
          fill="var(--chakra-colors-bg)"
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
      {drawn.boxes.map((box) => (
        <g
          key={box.id}
          role="button"
          tabIndex={0}
          aria-label={box.lines.join(", ")}
          aria-pressed={selected === box.id}
          style={{ cursor: "pointer" }}
          onClick={() => onSelect(selected === box.id ? null : box.id)}
          onKeyDown={(event) => {
            if (event.key !== "Enter" && event.key !== " ") return;
            event.preventDefault();
            onSelect(selected === box.id ? null : box.id);
          }}
        >
          <rect
            x={box.x}
            y={box.y}
            width={box.w}
            height={box.h}
            rx="4"
            fill="var(--chakra-colors-bg-subtle)"
            stroke={selected === box.id ? "var(--chakra-colors-lantern-solid)" : "currentColor"}
            strokeWidth={selected === box.id ? 3 : 1.5}
          />
          {box.lines.map((line, number) => (
            <text key={line} x={box.x + box.w / 2} y={box.y + 26 + 15 * number} textAnchor="middle" fill="currentColor" fontWeight={number === 0 ? 700 : 400}>
              {line}
            </text>
          ))}
          {box.terminals.map((terminal, index) => (
            <g key={index} fill="currentColor" fontSize="9">
              <circle cx={terminal.x} cy={terminal.y} r="2.5" />
              {terminal.name === "DIN" ? (
                <text x={terminal.x} y={terminal.y - 5} textAnchor="middle">
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
