import { Box, Button } from "@chakra-ui/react";
import { type KeyboardEvent, type PointerEvent, type WheelEvent, memo, useEffect, useId, useMemo, useRef, useState } from "react";
import type { Chart, ChartEvent } from "../../api/client";
import { dayWords } from "../../units";

const HEIGHT = 240;
const LEFT = 48;
const RIGHT = 12;
const TOP = 26;
const FOOT = 46;
const DAY = 86_400;
/** Shortest stretch that is shown, s. */
const LEAST = 2 * DAY;
/** Kinds that have no mark below the figures: they happen at a bench, not to the vehicle. */
const UNMARKED: readonly ChartEvent["kind"][] = ["tick", "drill"];

export interface Span {
  from: number;
  to: number;
}

interface Props {
  chart: Chart;
  events: readonly ChartEvent[];
  span: Span;
  whole: Span;
  onSpan: (span: Span) => void;
}

const month = new Intl.DateTimeFormat(undefined, { month: "short", year: "2-digit" });
const dayOf = new Intl.DateTimeFormat(undefined, { day: "numeric", month: "short" });
export const dayText = (s: number) => dayWords(new Date(1000 * s));

/** Round figures between two. */
function marks(low: number, high: number, count: number): number[] {
  const raw = (high - low) / count;
  const size = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((times) => times * size).find((one) => one >= raw) ?? raw;
  const all: number[] = [];
  for (let mark = Math.ceil(low / step) * step; mark <= high + step * 1e-6; mark += step) all.push(mark);
  return all;
}

/** Where days or months begin, no more than fit. */
function dates(span: Span, width: number): { s: number; text: string }[] {
  const most = Math.max(2, Math.floor(width / 80));
  const all: { s: number; text: string }[] = [];
  const days = (span.to - span.from) / DAY;
  const at = new Date(1000 * span.from);
  at.setHours(0, 0, 0, 0);
  if (days <= 70) {
    const step = Math.max(1, Math.ceil(days / most));
    for (at.setDate(at.getDate() + 1); at.getTime() / 1000 <= span.to; at.setDate(at.getDate() + step))
      all.push({ s: at.getTime() / 1000, text: dayOf.format(at) });
    return all;
  }
  const step = Math.max(1, Math.ceil(days / 30.4 / most));
  at.setDate(1);
  for (at.setMonth(at.getMonth() + 1); at.getTime() / 1000 <= span.to; at.setMonth(at.getMonth() + step))
    all.push({ s: at.getTime() / 1000, text: month.format(at) });
  return all;
}

/** A span moved and stretched, kept within the whole. */
export function within(span: Span, whole: Span): Span {
  const length = Math.min(Math.max(span.to - span.from, LEAST), whole.to - whole.from);
  const from = Math.min(Math.max(span.from, whole.from), whole.to - length);
  return { from, to: from + length };
}

const zoomed = (span: Span, by: number, at: number): Span => ({ from: at - (at - span.from) * by, to: at + (span.to - at) * by });

/** Figures over time with what happened below them. Drawn with one path a series, however many points there are. */
export const TimeChart = memo(function TimeChart({ chart, events, span, whole, onSpan }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const clip = useId();
  const [width, setWidth] = useState(720);
  const [near, setNear] = useState<number | null>(null);
  const fingers = useRef(new Map<number, number>());
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.max(260, Math.floor(entry.contentRect.width))));
    if (box.current) watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const inner = width - LEFT - RIGHT;
  const x = (s: number) => LEFT + ((s - span.from) / (span.to - span.from)) * inner;
  const timeAt = (px: number) => span.from + ((px - LEFT) / inner) * (span.to - span.from);

  const drawn = useMemo(() => {
    const place = (s: number) => LEFT + ((s - span.from) / (span.to - span.from)) * inner;
    let low = Infinity;
    let high = -Infinity;
    const shown = chart.series.map((series) => {
      // One point beyond each edge, so that a line goes on to it.
      const first = Math.max(0, series.points.findIndex(([s]) => s! >= span.from) - (series.line ? 1 : 0));
      const points = series.points.slice(first).filter(([s], index, all) => s! <= span.to || (series.line && (all[index - 1]?.[0] ?? Infinity) <= span.to));
      for (const [, value] of points) {
        low = Math.min(low, value!);
        high = Math.max(high, value!);
      }
      return { series, points };
    });
    if (low > high) return null;
    const pad = high - low < 1e-9 ? Math.max(1, Math.abs(high) * 0.1) : 0.08 * (high - low);
    // A share is never below nothing.
    const floor = low >= 0 && low - pad < 0 ? 0 : low - pad;
    const ceiling = high + pad;
    const y = (value: number) => HEIGHT - FOOT - ((value - floor) / (ceiling - floor)) * (HEIGHT - FOOT - TOP);
    const paths = shown.map(({ series, points }) => {
      if (!series.line) {
        const seen = new Set<number>();
        let path = "";
        for (const [s, value] of points) {
          const [px, py] = [Math.round(2 * place(s!)) / 2, Math.round(2 * y(value!)) / 2];
          const key = px * 10_000 + py;
          // What lies on the same spot is drawn once.
          if (seen.has(key)) continue;
          seen.add(key);
          path += `M${px - 2.6} ${py}a2.6 2.6 0 1 0 5.2 0a2.6 2.6 0 1 0 -5.2 0`;
        }
        return path;
      }
      let path = "";
      let column = NaN;
      let bottom = 0;
      let top = 0;
      for (const [s, value] of points) {
        const [px, py] = [Math.round(place(s!)), Math.round(10 * y(value!)) / 10];
        if (px === column && py >= top && py <= bottom) continue;
        if (px !== column) {
          column = px;
          top = bottom = py;
        } else {
          top = Math.min(top, py);
          bottom = Math.max(bottom, py);
        }
        path += `${path ? "L" : "M"}${px} ${py}`;
      }
      return path;
    });
    return { paths, ticks: marks(floor, ceiling, 4).map((mark) => ({ mark, y: y(mark) })), step: ceiling - floor };
  }, [chart, span, inner]);

  const lanes = useMemo(() => {
    const place = (s: number) => LEFT + ((s - span.from) / (span.to - span.from)) * inner;
    const seen: Record<string, Set<number>> = {};
    for (const event of events) {
      if (event.s < span.from || event.s > span.to || UNMARKED.includes(event.kind)) continue;
      (seen[event.kind] ??= new Set()).add(Math.round(place(event.s)));
    }
    return Object.entries(seen).map(([kind, columns]) => ({
      kind,
      path: [...columns]
        .map((px) => (kind === "fault" || kind === "part" ? `M${px} ${TOP}V${HEIGHT - FOOT + 8}` : `M${px} ${HEIGHT - FOOT + (kind === "charge" ? 2 : 8)}v6`))
        .join(""),
    }));
  }, [events, span, inner]);

  const found = useMemo(() => {
    if (near === null) return null;
    let best: ChartEvent | null = null;
    for (const event of events) if (!best || Math.abs(event.s - near) < Math.abs(best.s - near)) best = event;
    return best && best.s >= span.from && best.s <= span.to ? best : null;
  }, [near, events, span]);

  const to = (next: Span) => onSpan(within(next, whole));
  const onKey = (event: KeyboardEvent) => {
    const length = span.to - span.from;
    const middle = near ?? (span.from + span.to) / 2;
    const next: Record<string, () => void> = {
      ArrowLeft: () => to({ from: span.from - length / 8, to: span.to - length / 8 }),
      ArrowRight: () => to({ from: span.from + length / 8, to: span.to + length / 8 }),
      "+": () => to(zoomed(span, 0.7, middle)),
      "=": () => to(zoomed(span, 0.7, middle)),
      "-": () => to(zoomed(span, 1 / 0.7, middle)),
      Home: () => onSpan(whole),
    };
    const act = next[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };
  const onWheel = (event: WheelEvent<SVGSVGElement>) => {
    if (!event.ctrlKey && Math.abs(event.deltaX) < Math.abs(event.deltaY)) return;
    const at = timeAt(event.nativeEvent.offsetX);
    if (event.ctrlKey) to(zoomed(span, Math.exp(event.deltaY / 200), at));
    else to({ from: span.from + (event.deltaX / inner) * (span.to - span.from), to: span.to + (event.deltaX / inner) * (span.to - span.from) });
  };
  const onMove = (event: PointerEvent<SVGSVGElement>) => {
    const px = event.nativeEvent.offsetX;
    const before = fingers.current.get(event.pointerId);
    setNear(timeAt(px));
    if (before === undefined) return;
    const others = [...fingers.current].filter(([finger]) => finger !== event.pointerId);
    fingers.current.set(event.pointerId, px);
    const other = others[0]?.[1];
    if (other === undefined) {
      const by = ((before - px) / inner) * (span.to - span.from);
      to({ from: span.from + by, to: span.to + by });
    } else if (Math.abs(px - other) > 8) to(zoomed(span, Math.abs(before - other) / Math.abs(px - other), timeAt(other)));
  };
  const lift = (event: PointerEvent<SVGSVGElement>) => fingers.current.delete(event.pointerId);
  const unit = chart.series[0]?.unit ?? "";
  const digits = drawn ? Math.max(0, Math.min(3, Math.ceil(1 - Math.log10(drawn.step)))) : 0;
  return (
    <Box ref={box}>
      <svg
        className="time-chart"
        width={width}
        height={HEIGHT}
        viewBox={`0 0 ${width} ${HEIGHT}`}
        role="img"
        aria-label={`${chart.title}, ${dayText(span.from)} to ${dayText(span.to)}. Plus and minus zoom, arrows move.`}
        tabIndex={0}
        onKeyDown={onKey}
        onWheel={onWheel}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          fingers.current.set(event.pointerId, event.nativeEvent.offsetX);
        }}
        onPointerMove={onMove}
        onPointerUp={lift}
        onPointerCancel={lift}
        onPointerLeave={() => setNear(null)}
      >
        <g className="grid">
          {dates(span, inner).map(({ s, text }) => (
            <g key={s}>
              <line x1={x(s)} x2={x(s)} y1={TOP} y2={HEIGHT - FOOT} />
              <text x={x(s) + 3} y={HEIGHT - FOOT + 30}>
                {text}
              </text>
            </g>
          ))}
          {drawn?.ticks.map(({ mark, y }) => (
            <g key={mark}>
              <line x1={LEFT} x2={width - RIGHT} y1={y} y2={y} />
              <text x={LEFT - 6} y={y + 4} textAnchor="end">
                {mark.toFixed(digits)}
              </text>
            </g>
          ))}
          <text x={LEFT - 6} y={TOP - 10} textAnchor="end">
            {unit === "ohm" ? "Ω" : unit}
          </text>
        </g>
        <g className="lanes">
          {lanes.map(({ kind, path }) => (
            <path key={kind} className={kind} d={path} />
          ))}
        </g>
        {/* A line goes on to what lies beyond an edge, and is cut off there. */}
        <clipPath id={clip}>
          <rect x={LEFT} y={0} width={inner} height={HEIGHT} />
        </clipPath>
        <g clipPath={`url(#${clip})`}>
          {chart.series.map((series, index) => (
            <path key={series.key} className={`${series.line ? "line" : "dots"} s${index}`} d={drawn?.paths[index] ?? ""} />
          ))}
        </g>
        {!drawn && (
          <text x={width / 2} y={HEIGHT / 2} textAnchor="middle" className="none">
            Nothing in this time
          </text>
        )}
        {found && <line className="cursor" x1={x(found.s)} x2={x(found.s)} y1={TOP} y2={HEIGHT - FOOT + 14} />}
      </svg>
      <Box display="flex" flexWrap="wrap" alignItems="center" gap="3" fontSize="xs" color="fg.muted">
        {chart.series.map((series, index) => (
          <span key={series.key} className={`legend s${index}`}>
            <span aria-hidden>{series.line ? "—" : "●"}</span> {series.label}
          </span>
        ))}
        <Box as="span" ml="auto" display="flex" gap="1">
          <Button size="xs" minW="8" minH="8" variant="outline" aria-label="Closer" onClick={() => to(zoomed(span, 0.6, (span.from + span.to) / 2))}>
            +
          </Button>
          <Button size="xs" minW="8" minH="8" variant="outline" aria-label="Wider" onClick={() => to(zoomed(span, 1 / 0.6, (span.from + span.to) / 2))}>
            −
          </Button>
        </Box>
      </Box>
      <Box minH="5" fontSize="sm">
        {found && (
          <>
            <b>{dayText(found.s)}</b> {found.words}
          </>
        )}
      </Box>
    </Box>
  );
});
