import { Box, Button } from "@chakra-ui/react";
import { memo, useCallback, useState } from "react";
import type { CircuitView } from "../../api/client";
import { say } from "../../units";

type Wave = CircuitView["waveforms"][number];

const SIZE = { width: 640, height: 132, left: 78, right: 8, top: 8, bottom: 22 };
/** Dashes tell lines apart where colours do not. */
const DASHES = ["", "6 3", "2 3", "8 3 2 3"];
const COLOURS = ["var(--chakra-colors-lantern-solid)", "var(--chakra-colors-note-line)", "var(--chakra-colors-fix-line)", "var(--chakra-colors-fg-muted)"];

interface Props {
  view: CircuitView;
  /** The stretch of time at the cursor. */
  cursor: number;
  onCursor: (cursor: number) => void;
  /** What happens at the beginning. */
  since: string;
}

/** Nodes that nobody can touch with a probe. */
const HIDDEN = /^(light\d+_[ak]|sense|plate|emf)_v$/;

/** What is shown at first: of the volts what swings most and the output, of the amps all. */
function usual(waves: readonly Wave[]): string[] {
  const swing = (wave: Wave) => Math.max(...wave.most) - Math.min(...wave.least);
  return waves
    .filter((wave) => wave.name !== "p_v")
    .sort((a, b) => swing(b) - swing(a))
    .slice(0, 2)
    .map((wave) => wave.name);
}

/** Volts and amps over time, with a cursor that is moved by pointing, dragging or the arrow keys. */
export function Waveforms({ view, cursor, onCursor, since }: Props) {
  const { waveforms, time_s: time } = view;
  const [chosen, setChosen] = useState<string[] | null>(null);
  const volts = waveforms.filter((wave) => wave.unit === "V" && !HIDDEN.test(wave.name));
  const amps = waveforms.filter((wave) => wave.unit === "A");
  const shown = chosen ?? usual(volts);
  const usually = shown.join();
  const toggle = useCallback(
    (name: string) =>
      setChosen((before) => {
        const shown = before ?? usually.split(",").filter(Boolean);
        return shown.includes(name) ? shown.filter((known) => known !== name) : [...shown, name].slice(-4);
      }),
    [usually],
  );
  const now = time[cursor] ?? 0;
  return (
    <Box mt="3">
      <h3 className="chart-title">Over time</h3>
      <Box display="flex" flexWrap="wrap" gap="1" mb="1" role="group" aria-label="Voltages shown">
        {volts.map((wave) => (
          <Toggle key={wave.name} name={wave.name} called={wave.called} on={shown.includes(wave.name)} onToggle={toggle} />
        ))}
      </Box>
      <Plot waves={volts.filter((wave) => shown.includes(wave.name))} time={time} unit="V" cursor={cursor} onCursor={onCursor} />
      <Plot waves={amps} time={time} unit="A" cursor={cursor} onCursor={onCursor} />
      <input
        type="range"
        className="cursor"
        min={0}
        max={Math.max(time.length - 1, 0)}
        value={cursor}
        aria-label="Moment that is looked at"
        aria-valuetext={`after ${say({ value: now, unit: "s" })}`}
        onChange={(event) => onCursor(Number(event.target.value))}
      />
      <p className="quiet">
        {`${say({ value: now, unit: "s" })} after ${since}: `}
        {[...volts.filter((wave) => shown.includes(wave.name)), ...amps]
          .map((wave) => `${wave.called} ${say({ value: middle(wave, cursor), unit: wave.unit })}`)
          .join(", ")}
      </p>
    </Box>
  );
}

/** Whether a voltage is shown; drawn again only when that changes. */
const Toggle = memo(function Toggle({ name, called, on, onToggle }: { name: string; called: string; on: boolean; onToggle: (name: string) => void }) {
  return (
    <Button size="xs" minH="8" colorPalette="lantern" variant={on ? "solid" : "outline"} aria-pressed={on} onClick={() => onToggle(name)}>
      {called}
    </Button>
  );
});

export const middle = (wave: Wave, index: number) => ((wave.least[index] ?? 0) + (wave.most[index] ?? 0)) / 2;

interface PlotProps {
  waves: readonly Wave[];
  time: readonly number[];
  unit: "V" | "A";
  cursor: number;
  onCursor: (cursor: number) => void;
}

function Plot({ waves, time, unit, cursor, onCursor }: PlotProps) {
  if (waves.length === 0 || time.length === 0) return null;
  const low = Math.min(0, ...waves.flatMap((wave) => wave.least));
  const high = Math.max(...waves.flatMap((wave) => wave.most), low + 1e-6);
  const { width, height, left, right, top, bottom } = SIZE;
  const end = time.at(-1)! + (time[1] ?? 0) - (time[0] ?? 0);
  const x = (seconds: number) => left + ((width - left - right) * seconds) / end;
  const y = (value: number) => top + ((height - top - bottom) * (high - value)) / (high - low);
  // Up along the most of each stretch and down along the least: nothing that was thinned away is lost.
  const line = (wave: Wave) =>
    wave.most
      .flatMap((most, index) => [`${x(time[index]!).toFixed(1)},${y(most).toFixed(1)}`, `${x(time[index]!).toFixed(1)},${y(wave.least[index]!).toFixed(1)}`])
      .join(" ");
  const point = (event: React.PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = ((event.clientX - box.left) / box.width) * width - left;
    onCursor(Math.round(Math.min(1, Math.max(0, share / (width - left - right))) * (time.length - 1)));
  };
  const ticks = [low, (low + high) / 2, high];
  return (
    <>
      <svg
        className="wave"
        viewBox={`0 0 ${width} ${height}`}
        role="img"
        aria-label={`${unit === "V" ? "Volts" : "Amps"} over ${say({ value: end, unit: "s" })}: ${waves.map((wave) => wave.called).join(", ")}`}
        onPointerDown={point}
        onPointerMove={(event) => event.buttons === 1 && point(event)}
      >
        {ticks.map((tick) => (
          <g key={tick}>
            <line className="grid" x1={left} x2={width - right} y1={y(tick)} y2={y(tick)} />
            <text x={left - 6} y={y(tick) + 4} textAnchor="end">
              {say({ value: tick, unit })}
            </text>
          </g>
        ))}
        {waves.map((wave, index) => (
          <polyline key={wave.name} points={line(wave)} stroke={COLOURS[index % 4]} strokeDasharray={DASHES[index % 4]} />
        ))}
        <line className="now" x1={x(time[cursor] ?? 0)} x2={x(time[cursor] ?? 0)} y1={top} y2={height - bottom} />
        <text x={left} y={height - 5}>
          0 s
        </text>
        <text x={width - right} y={height - 5} textAnchor="end">
          {say({ value: end, unit: "s" })}
        </text>
      </svg>
      <p className="legend">
        {waves.map((wave, index) => (
          <span key={wave.name}>
            <svg width="26" height="8" aria-hidden>
              <line x1="0" x2="26" y1="4" y2="4" stroke={COLOURS[index % 4]} strokeWidth="2.5" strokeDasharray={DASHES[index % 4]} />
            </svg>{" "}
            {wave.called}
          </span>
        ))}
      </p>
    </>
  );
}
