import { Box } from "@chakra-ui/react";
import { say } from "../units";

interface Soldering {
  groups: number;
  series: number;
  leds: number;
  resistor_ohm: number;
  resistor_w: number;
  steps: string[];
}

const STEP = 62;

/** One segment of a strip with its rails: where its track is cut, which LEDs are used, and what is soldered in. */
export function Recut({ soldering }: { soldering: Soldering }) {
  const { groups, series, leds, resistor_ohm, resistor_w, steps } = soldering;
  const used = groups * series;
  const width = STEP * (leds + 1);
  const x = (led: number) => STEP * (led + 0.75);
  const ohm = say({ value: resistor_ohm, unit: "ohm" });
  return (
    <Box mt="2">
      <svg
        className="segment"
        viewBox={`0 0 ${width} 112`}
        role="img"
        aria-label={`A segment of ${leds} LEDs: ${steps.join(" ")}`}
        style={{ maxWidth: `${1.3 * width}px` }}
      >
        <line className="rail" x2={width} y1="8" y2="8" />
        <line className="rail" x2={width} y1="104" y2="104" />
        <text x="2" y="24">
          +
        </text>
        <text x="2" y="98">
          −
        </text>
        {Array.from({ length: leds }, (_, led) => {
          const lit = led < used;
          const first = lit && led % series === 0;
          const last = lit && led % series === series - 1;
          return (
            <g key={led} className={lit ? "" : "dark"}>
              {first && <path className={led === 0 ? "" : "added"} d={`M${x(led) - 14} 8 V48`} />}
              <path d={`M${x(led) - 14} 48 H${x(led) + 14}`} />
              <path className="led" d={`M${x(led) - 8} 39 L${x(led) + 8} 48 L${x(led) - 8} 57 Z`} />
              <path d={`M${x(led) + 8} 39 V57`} />
              {led + 1 < leds && !last && led + 1 !== used && <path d={`M${x(led) + 14} 48 H${x(led + 1) - 14}`} />}
              {last && (
                <>
                  <path className="added" d={`M${x(led) + 14} 48 V58 M${x(led) + 14} 86 V104`} />
                  <rect className="added" x={x(led) + 8} y="58" width="12" height="28" />
                  <path className="cut" d={`M${x(led) + 20} 38 l10 20 M${x(led) + 30} 38 l-10 20`} />
                </>
              )}
              <text x={x(led)} y="33" textAnchor="middle">
                {led + 1}
              </text>
            </g>
          );
        })}
      </svg>
      <p className="quiet">{`✕ cut, thick: soldered in; each resistor ${ohm}, ${say({ value: resistor_w, unit: "W" })} or more.`}</p>
      <ol className="soldering">
        {steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </ol>
    </Box>
  );
}
