import type { CircuitFigures } from "../../api/client";
import { Readout } from "../../ui/StepHeading";
import { say } from "../../units";

/** What is told of a circuit, in the order in which people want it. */
const WORDS: readonly (readonly [keyof CircuitFigures, string, string])[] = [
  ["period_s", "Flashes every", "s"],
  ["on_s", "Of that on", "s"],
  ["duty", "Share of the time on", "1"],
  ["supply_mean_a", "Takes, on average", "A"],
  ["supply_peak_a", "At most", "A"],
  ["output_peak_a", "Its output gives", "A"],
  ["light_peak_a", "Through the lights", "A"],
  ["drop_v", "Keeps for itself", "V"],
  ["pin_a", "From the pin", "A"],
  ["heat_w", "Heat of its transistor", "W"],
  ["pwm_hz", "May be pulsed up to", "Hz"],
];

const LIT = { none: "nothing shines", low: "charge now: only the low one", "good+low": "charge soon: both", good: "good: the good one" } as const;
type Rows = readonly (readonly [string, string])[];

/** A circuit's figures in words, without its bands. */
export function figuresTold(figures: CircuitFigures, tap: number): Rows {
  const rows = WORDS.flatMap(([key, words, unit]) => {
    const value = figures[key];
    return typeof value === "number" ? [[words, say({ value, unit })] as const] : [];
  });
  const held = Object.entries(figures.taps ?? {}).map(([name, one]) => {
    const count = Number(name.replace("tap", ""));
    const words = `Carries its lights${Object.keys(figures.taps ?? {}).length > 1 ? `, ${count} resistor${count > 1 ? "s" : ""}${count === tap ? " as now" : ""}` : ""}`;
    const gaps = one.gap_share == null ? "" : `; ${say({ value: one.gap_share, unit: "1" })} is left at the end of a gap`;
    return [words, `${say({ value: one.half_s, unit: "s" })} to half, ${say({ value: one.tenth_s, unit: "s" })} to a tenth${gaps}`] as const;
  });
  return [...held, ...rows];
}

export function Told({ figures, tap }: { figures: CircuitFigures; tap: number }) {
  const bands = (figures.bands ?? []).map((band) => [`${band.from_v.toFixed(2)} to ${band.to_v.toFixed(2)} V`, LIT[band.lit as keyof typeof LIT]] as const);
  return (
    <>
      {bands.length > 0 && <Bands bands={figures.bands ?? []} />}
      <Readout rows={[...bands, ...figuresTold(figures, tap)]} />
    </>
  );
}

/** The spans of volts as one bar, each with what shines. */
function Bands({ bands }: { bands: NonNullable<CircuitFigures["bands"]> }) {
  const [from, to] = [bands[0]!.from_v, bands.at(-1)!.to_v];
  const x = (volts: number) => (620 * (volts - from)) / Math.max(to - from, 1e-9);
  return (
    <svg className="bands" viewBox="-10 0 640 44" role="img" aria-label={bands.map((band) => `${band.from_v} to ${band.to_v} V: ${band.lit}`).join("; ")}>
      {bands.map((band) => (
        <g key={band.from_v} className={band.lit.replace("+", "-")}>
          <rect x={x(band.from_v)} width={Math.max(x(band.to_v) - x(band.from_v), 1)} height="22" />
          {x(band.to_v) - x(band.from_v) > 60 && (
            <text x={(x(band.from_v) + x(band.to_v)) / 2} y="15" textAnchor="middle">
              {band.lit}
            </text>
          )}
          <text x={x(band.from_v)} y="38" textAnchor="middle">
            {band.from_v.toFixed(1)}
          </text>
        </g>
      ))}
    </svg>
  );
}
