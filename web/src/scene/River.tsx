import { Box, CloseButton, IconButton } from "@chakra-ui/react";
import { memo, useEffect, useRef, useState } from "react";
import type { Fact, Picture, Reach } from "../api/client";
import { capital } from "../document/fields";
import { ink, lightColour } from "../theme";
import { Figure } from "../job/Figure";
import { saveFile } from "../base/save";
import { share, read, of } from "../units";
import { isBeside, type Stand, along, heatBranch, layout, ribbon, shareAt } from "./river";
import { Icon } from "../ui/icons";

/** A pinched wire on its reach: where along it, and what flows there. */
export interface PinchOnRiver {
  feed: string;
  at: number;
  says: string;
  onPut: (feed: string, at: number) => void;
}

interface Props {
  picture: Picture | null;
  selected: string | null;
  onSelect: (id: string | null) => void;
  /** A pinched wire, to be dragged along any reach. */
  /** What is said in place of a drawing where there are no figures. */
  empty?: string;
  pinch?: PinchOnRiver;
}

const factOf = (reach: Reach, key: string): Fact | undefined => reach.facts.find((fact) => fact.key === key);

/** What a reach says of itself in one line. */
function caption(reach: Reach): string {
  const figure = (key: string) => {
    const fact = factOf(reach, key);
    return fact ? read(fact) : "";
  };
  switch (reach.kind) {
    case "source":
      return `${figure("terminal_v")} · ${figure("current_a")}`;
    case "converter":
      return `${figure("out_v")} · ${figure("out_a")}`;
    case "light":
      // Further ways into a strip only say what they bring; what it gives stands at the first.
      if (!factOf(reach, "output")) return read(of(reach, "arrives_w"));
      if ((factOf(reach, "output")?.value ?? 0) < 5e-4) return "off";
      return `${read(of(reach, "arrives_w"))} · ${share(factOf(reach, "output")?.value ?? 0)}`;
    default:
      return read(of(reach, "arrives_w"));
  }
}

/** The power's way from the battery to every light, as wide as its watts. */
export const River = memo(function River({ picture, selected, onSelect, pinch, empty }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const [size, setSize] = useState({ width: 540, height: 300 });
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const river = picture ? layout(picture, size.width, size.height) : null;
  const chosen = picture?.reaches.find((reach) => reach.id === selected);
  const pinched = pinch && river?.stands.find((stand) => stand.reach.id === pinch.feed);
  const mark = pinched && along(pinched, pinch.at);
  const held = useRef<Stand | null>(null);
  /** Takes hold of a stream, and follows until it is let go. */
  const take = (event: React.PointerEvent, stand: Stand) => {
    if (!pinch || !stand.parent) return;
    event.preventDefault();
    held.current = stand;
    svg.current?.setPointerCapture(event.pointerId);
    drag(event);
  };
  const drag = (event: React.PointerEvent) => {
    const stand = held.current;
    const box = svg.current?.getBoundingClientRect();
    if (pinch && stand && box) pinch.onPut(stand.reach.id, Math.round(100 * shareAt(stand, event.clientX - box.left)) / 100);
  };
  const walk = (event: React.KeyboardEvent, stand: Stand) => {
    const siblings = stand.parent?.children ?? [stand];
    const index = siblings.indexOf(stand);
    const to = {
      ArrowLeft: stand.parent,
      ArrowRight: stand.children[0],
      ArrowUp: siblings[index - 1],
      ArrowDown: siblings[index + 1],
    }[event.key];
    if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      onSelect(stand.reach.id);
    } else if (event.key === "Escape") onSelect(null);
    else if (to) {
      event.preventDefault();
      svg.current?.querySelector<SVGGElement>(`[data-reach="${CSS.escape(to.reach.id)}"]`)?.focus();
    }
  };

  return (
    <Box flex="1" minH="0" display="flex" flexDirection="column" position="relative">
      <Box as="h2" fontWeight="semibold" px="4" pt="3" pr="14">
        Where the power goes{" "}
        {picture && picture.source_w > 0 && (
          <Box as="span" fontWeight="normal" color="fg.muted" fontSize="xs">
            {read(of(picture, "source_w"))} leave the {picture.reaches[0]?.name}, {read(of(picture, "lights_w"))} reach the lights
          </Box>
        )}
      </Box>
      {river && river.stands.length > 1 && (
        <IconButton
          aria-label="Export the river as a picture"
          title="Export as SVG"
          position="absolute"
          top="1.5"
          right="3"
          size="xs"
          minW="8"
          minH="8"
          variant="ghost"
          onClick={() => svg.current && exportSvg(svg.current, size)}
        >
          <Icon name="save" />
        </IconButton>
      )}
      <Box ref={frame} flex="1" minH={{ base: "15rem", md: "8rem" }} position="relative" overflowY={river && river.height > size.height ? "auto" : "hidden"}>
        {river && river.stands.length > 1 ? (
          <svg
            ref={svg}
            role="group"
            aria-label="Where the power goes; move with the arrow keys"
            // A finger on the mark drags it; elsewhere it scrolls the page.
            style={{ display: "block", width: "100%", height: river.height }}
            onPointerMove={drag}
            onPointerUp={() => (held.current = null)}
            onPointerCancel={() => (held.current = null)}
          >
            {river.stands.map((stand) => (
              <path
                key={stand.reach.id}
                aria-hidden
                d={ribbon(stand)}
                fill={ink.river}
                stroke={selected === stand.reach.id ? ink.accent : "none"}
                style={{ cursor: pinch ? "ew-resize" : "pointer" }}
                onPointerDown={(event) => event.pointerType === "mouse" && take(event, stand)}
                onClick={(event) => {
                  const box = svg.current?.getBoundingClientRect();
                  if (pinch && box) pinch.onPut(stand.reach.id, Math.round(100 * shareAt(stand, event.clientX - box.left)) / 100);
                  else onSelect(stand.reach.id);
                }}
              />
            ))}
            {river.stands.map((stand) => {
              const heat = heatBranch(stand, river.scale);
              return heat ? (
                <g key={stand.reach.id} aria-hidden>
                  <path d={heat.path} fill={ink.heat} opacity="0.55" />
                  <text x={heat.x} y={heat.y + 15} fontSize="12" textAnchor="middle" fill={ink.heat} stroke={ink.ground} strokeWidth="3" paintOrder="stroke">
                    heat {read(of(heat, "heat_w"))}
                  </text>
                </g>
              ) : null;
            })}
            {river.stands.map((stand) => {
              const { reach } = stand;
              const on = selected === reach.id;
              const glow = picture?.glows.find((known) => known.id === reach.name);
              const fill = reach.kind === "source" ? ink.accent : glow ? lightColour(glow.colour, glow.rgb) : ink.bank;
              const label = stand.x + stand.width + 8;
              const middle = stand.top + stand.height / 2;
              return (
                <g
                  key={reach.id}
                  data-reach={reach.id}
                  role="button"
                  tabIndex={on || (!chosen && stand.depth === 0) ? 0 : -1}
                  aria-pressed={on}
                  aria-label={`${reach.kind === "source" ? reach.name : reach.id}: ${caption(reach)}${reach.unfused ? ", no fuse" : ""}`}
                  style={{ cursor: "pointer" }}
                  onClick={() => onSelect(reach.id)}
                  onKeyDown={(event) => walk(event, stand)}
                >
                  <rect
                    x={stand.x}
                    y={stand.top}
                    width={stand.width}
                    height={stand.height}
                    rx="3"
                    fill={fill}
                    stroke={on ? ink.accent : ink.bank}
                    strokeWidth={on ? 2 : 1}
                  />
                  <rect
                    className="ring"
                    x={stand.x - 5}
                    y={stand.top - 5}
                    width={stand.width + 10}
                    height={stand.height + 10}
                    rx="6"
                    fill="none"
                    stroke={ink.accent}
                    strokeWidth="2"
                  />
                  {/* A thin stream still is a target for a finger. */}
                  <rect
                    x={stand.x - 10}
                    y={middle - Math.max(18, stand.height / 2)}
                    width={stand.width + 20}
                    height={Math.max(36, stand.height)}
                    fill="transparent"
                  />
                  {isBeside(stand) ? (
                    <>
                      <text x={label} y={river.dense ? middle + 4 : middle - 1} fontSize={river.dense ? 11 : 13} fontWeight="600" fill={ink.text}>
                        {reach.name}
                        {river.dense && (
                          <tspan fontWeight="400" fill={ink.muted}>
                            {" "}
                            {caption(reach)}
                          </tspan>
                        )}
                      </text>
                      {!river.dense && (
                        <text x={label} y={middle + 15} fontSize="12" fill={ink.muted}>
                          {caption(reach)}
                        </text>
                      )}
                    </>
                  ) : (
                    <>
                      <text x={stand.x} y={stand.top - 22} fontSize="13" fontWeight="600" fill={ink.text}>
                        {reach.name}
                      </text>
                      <text x={stand.x} y={stand.top - 7} fontSize="12" fill={ink.muted} stroke={ink.ground} strokeWidth="3" paintOrder="stroke">
                        {caption(reach)}
                      </text>
                    </>
                  )}
                  {reach.unfused && stand.parent && (
                    <>
                      <circle cx={stand.parent.x + stand.parent.width + 12} cy={stand.mouth.top + stand.mouth.height / 2} r="5" fill={ink.stop} />
                      <text x={stand.parent.x + stand.parent.width + 22} y={stand.mouth.top + stand.mouth.height / 2 + 4} fontSize="12" fill={ink.text}>
                        no fuse
                      </text>
                    </>
                  )}
                </g>
              );
            })}
            {pinched && mark && (
              // The dial beside it is the same for the keyboard.
              <g aria-hidden data-pinch={pinch.at} style={{ cursor: "ew-resize", touchAction: "none" }} onPointerDown={(event) => take(event, pinched)}>
                <circle cx={mark.x} cy={mark.y} r="22" fill="transparent" />
                <circle cx={mark.x} cy={mark.y} r="10" fill={ink.stop} stroke={ink.ground} strokeWidth="2" />
                <path d={`M${mark.x - 4} ${mark.y - 4}l8 8m0-8l-8 8`} stroke={ink.ground} strokeWidth="2.5" />
                <text
                  x={mark.x}
                  y={mark.y - 16}
                  fontSize="13"
                  fontWeight="600"
                  textAnchor="middle"
                  fill={ink.text}
                  stroke={ink.ground}
                  strokeWidth="4"
                  paintOrder="stroke"
                >
                  {pinch.says}
                </text>
              </g>
            )}
          </svg>
        ) : (
          <Box position="absolute" inset="0" display="grid" placeItems="center" color="fg.muted" px="6" textAlign="center">
            {empty ?? "Add a light to see where the power goes."}
          </Box>
        )}
      </Box>
      {chosen ? (
        <ReachDetail reach={chosen} onClose={() => onSelect(null)} />
      ) : (
        <Box px="4" pb="2" color="fg.muted" fontSize="xs" hideBelow="md">
          ← → ↑ ↓ move · Enter opens a part
        </Box>
      )}
    </Box>
  );
});

/** The river as a file of its own: its colours written out, nothing of the page left in it. */
function exportSvg(svg: SVGSVGElement, size: { width: number; height: number }) {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const style = getComputedStyle(document.documentElement);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("viewBox", `0 0 ${size.width} ${size.height}`);
  copy.setAttribute("font-family", "sans-serif");
  copy.removeAttribute("style");
  for (const ring of copy.querySelectorAll(".ring, [fill=transparent]")) ring.remove();
  const ground = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  ground.setAttribute("width", "100%");
  ground.setAttribute("height", "100%");
  ground.setAttribute("fill", "var(--chakra-colors-bg)");
  copy.prepend(ground);
  const text = copy.outerHTML.replace(/var\((--[\w-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim() || "currentColor");
  saveFile("watt-river.svg", "image/svg+xml", text);
}

function ReachDetail({ reach, onClose }: { reach: Reach; onClose: () => void }) {
  return (
    <Box
      role="region"
      aria-label={`Figures of ${reach.id}`}
      flex="none"
      maxH={{ md: "45%" }}
      overflowY="auto"
      bg="bg.panel"
      borderTopWidth="1px"
      px="4"
      py="2"
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      <Box display="flex" alignItems="center" justifyContent="space-between">
        <Box as="h3" fontWeight="semibold">
          {reach.id === "source" ? capital(reach.name) : reach.id}
        </Box>
        <CloseButton size="xs" aria-label="Close the figures" onClick={onClose} />
      </Box>
      <Box as="dl" display="grid" gridTemplateColumns="repeat(auto-fill, minmax(8.6rem, 1fr))" columnGap="4" rowGap="1">
        {reach.facts.map((fact) => (
          <Box key={fact.key} fontSize="xs">
            <Box as="dt" color="fg.muted">
              {fact.label}
            </Box>
            <Box as="dd" display="flex" alignItems="baseline" gap="2" whiteSpace="nowrap">
              <Figure label={fact.label} text={read(fact)} working={fact.working} />
              {fact.used !== undefined && fact.used !== null && <Box color={fact.used > 1 ? "stop.fg" : "fg.muted"}>{share(fact.used)} used</Box>}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
