import { memo, useId } from "react";
import type { CircuitView } from "../../api/client";
import { say } from "../../units";

/** Size of a square of the drawing, and room around it, in its own units. */
const SQUARE = 22;
const ROOM = { x: 26, right: 62, y: 26 };

type Symbol = CircuitView["drawing"]["symbols"][number];
type Point = readonly [number, number];

const at = (point: readonly number[]): Point => [ROOM.x + SQUARE * point[0]!, ROOM.y + SQUARE * point[1]!];
const path = (points: readonly (readonly number[])[]) => points.map((point) => at(point).join(",")).join(" ");

interface Props {
  drawing: CircuitView["drawing"];
  name: string;
  /** Volts of a node at the cursor. */
  voltsOf: (node: string) => number | undefined;
  /** The node that is pointed at. */
  node: string | null;
  onNode: (node: string | null) => void;
  /** The part whose field is in hand. */
  field: string | null;
  /** Whether its lights are on at this moment of the preview; nothing while it stands still. */
  lit: boolean | null;
}

/** A schematic, its symbols after IEC 60617. Pointing at a conductor tells its volts. */
export const CircuitSchematic = memo(function CircuitSchematic({ drawing, name, voltsOf, node, onNode, field, lit }: Props) {
  const title = useId();
  const [width, height] = [ROOM.x + ROOM.right + SQUARE * drawing.width, 2 * ROOM.y + SQUARE * drawing.height];
  return (
    <svg className="schematic" viewBox={`0 0 ${width} ${height}`} role="img" aria-labelledby={title} style={{ maxWidth: `${1.35 * width}px` }}>
      <title id={title}>{`Schematic of ${name}: ${drawing.symbols.map((one) => said(one)).join("; ")}`}</title>
      {drawing.wires.map((wire, index) => (
        <g key={index} className={wire.node === node ? "wire on" : "wire"} onPointerEnter={() => onNode(wire.node)} onPointerLeave={() => onNode(null)}>
          <polyline className="reach" points={path(wire.points)} />
          <polyline points={path(wire.points)} />
        </g>
      ))}
      {drawing.symbols.map((one) => (
        <g key={one.name} className={`${one.unused ? "part unused" : "part"}${one.field && one.field === field ? " held" : ""}`}>
          <Shape symbol={one} lit={lit} />
        </g>
      ))}
      {drawing.dots.map((dot, index) => {
        const [x, y] = at(dot.at);
        return <circle key={index} className="dot" cx={x} cy={y} r="3" />;
      })}
      <NodeVolts drawing={drawing} node={node} voltsOf={voltsOf} />
    </svg>
  );
});

/** A symbol in words. */
const said = (one: Symbol) => `${one.called}${one.value != null ? ` ${say({ value: one.value, unit: one.unit })}` : ""}${one.unused ? ", not used" : ""}`;

/** The volts beside the conductor that is pointed at. */
function NodeVolts({ drawing, node, voltsOf }: Pick<Props, "drawing" | "node" | "voltsOf">) {
  const wire = drawing.wires.find((one) => one.node === node);
  const volts = node === "0" ? 0 : node && voltsOf(node);
  if (!wire || typeof volts !== "number") return null;
  const points = wire.points;
  const [[ax, ay], [bx, by]] = [at(points[0]!), at(points[1]!)];
  const [x, y] = [(ax + bx) / 2, (ay + by) / 2];
  const text = say({ value: volts, unit: "V" });
  const width = 12 + 7.2 * text.length;
  return (
    <g className="volts" transform={`translate(${x - width / 2} ${y - 27})`}>
      <rect width={width} height="20" rx="4" />
      <text x={width / 2} y="14" textAnchor="middle">
        {text}
      </text>
    </g>
  );
}

function Shape({ symbol, lit }: { symbol: Symbol; lit: boolean | null }) {
  const [from, to] = [at(symbol.from), at(symbol.to)];
  if (symbol.kind === "terminal") return <Terminal x={from[0]} y={from[1]} called={symbol.called} />;
  if (symbol.kind === "timer") return <Timer from={from} to={to} called={symbol.called} />;
  if (symbol.kind === "npn" || symbol.kind === "npn_reversed" || symbol.kind === "mosfet") return <Transistor symbol={symbol} from={from} to={to} />;
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const length = Math.hypot(dx, dy);
  const angle = (180 / Math.PI) * Math.atan2(dy, dx);
  const upright = Math.abs(dy) > Math.abs(dx);
  const [x, y] = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
  const value = symbol.value != null ? say({ value: symbol.value, unit: symbol.unit }) : "";
  // The arrows of an LED and the plates of a capacitor take more room than a body.
  const beside = symbol.kind === "led" ? 27 : symbol.kind === "resistor" || symbol.kind === "diode" ? 15 : 20;
  const shines = lit === true && (symbol.kind === "led" || symbol.kind === "light");
  return (
    <>
      <g transform={`translate(${from[0]} ${from[1]}) rotate(${angle})`}>
        <Body kind={symbol.kind} length={length} shines={shines} />
      </g>
      {upright ? (
        <text x={x + beside} y={y - (value ? 3 : -4)}>
          <tspan fontWeight="600">{symbol.called}</tspan>
          {value && (
            <tspan x={x + beside} dy="15">
              {value}
            </tspan>
          )}
        </text>
      ) : (
        <>
          <text x={x} y={y - (symbol.unit === "F" ? 17 : 11)} textAnchor="middle" fontWeight="600">
            {symbol.called}
          </text>
          <text x={x} y={y + (symbol.unit === "F" ? 28 : 22)} textAnchor="middle">
            {value}
          </text>
        </>
      )}
    </>
  );
}

/** What stands between two leads, lying on the x axis. */
function Body({ kind, length, shines }: { kind: string; length: number; shines: boolean }) {
  const half = length / 2;
  const leads = (reach: number) => (
    <>
      <line x2={half - reach} />
      <line x1={half + reach} x2={length} />
    </>
  );
  if (kind === "resistor")
    return (
      <>
        {leads(15)}
        <rect x={half - 15} y="-6" width="30" height="12" className="body" />
      </>
    );
  if (kind === "capacitor" || kind === "polarised")
    return (
      <>
        {leads(4)}
        {kind === "polarised" ? <rect x={half - 7} y="-13" width="5" height="26" className="body" /> : <line x1={half - 4} x2={half - 4} y1="-13" y2="13" />}
        <line x1={half + 4} x2={half + 4} y1="-13" y2="13" strokeWidth="2.4" />
        {kind === "polarised" && (
          <path d={`M${half - 18} -10 h8 M${half - 14} -14 v8`} strokeWidth="1.4">
            <title>plus</title>
          </path>
        )}
      </>
    );
  if (kind === "light")
    return (
      <>
        {leads(11)}
        <circle cx={half} r="11" className={shines ? "shines" : "body"} />
        <path d={`M${half - 7.8} -7.8 l15.6 15.6 M${half - 7.8} 7.8 l15.6 -15.6`} />
      </>
    );
  return (
    <>
      <line x2={length} />
      <path d={`M${half - 8} -9 L${half + 8} 0 L${half - 8} 9 Z`} className={shines ? "shines" : "body"} />
      <line x1={half + 8} x2={half + 8} y1="-9" y2="9" />
      {kind === "led" && (
        <path
          d={`M${half - 2} -12 l7 -8 m-4.500 0.600 l4.500 -0.600 l0.400 4.600 M${half + 6} -11 l7 -8 m-4.500 0.600 l4.500 -0.600 l0.400 4.600`}
          strokeWidth="1.4"
        />
      )}
    </>
  );
}

function Terminal({ x, y, called }: { x: number; y: number; called: string }) {
  return (
    <>
      <circle cx={x} cy={y} r="3.500" className="body" />
      <text x={x - 8} y={y - 8} textAnchor="middle" fontWeight="600">
        {called}
      </text>
    </>
  );
}

/** The pins of a timer in the places where its conductors arrive. */
function Timer({ from, to, called }: { from: Point; to: Point; called: string }) {
  const [width, height] = [to[0] - from[0], to[1] - from[1]];
  const pins = [
    ["discharge", 6, SQUARE + 4, "start"],
    ["threshold,", 6, 4 * SQUARE - 2, "start"],
    ["trigger", 6, 4 * SQUARE + 12, "start"],
    ["out", width - 5, 3 * SQUARE + 4, "end"],
    ["+", width / 2, 14, "middle"],
    ["−", width / 2, height - 6, "middle"],
  ] as const;
  return (
    <g transform={`translate(${from[0]} ${from[1]})`}>
      <rect width={width} height={height} className="body" />
      {pins.map(([pin, x, y, anchor]) => (
        <text key={pin} x={x} y={y} textAnchor={anchor} className="pin">
          {pin}
        </text>
      ))}
      <text x={width / 2 + 12} y="-6" fontWeight="600">
        {called}
      </text>
    </g>
  );
}

/** A transistor between the two ends, its base a square to the left, or to the right where it is turned round. */
function Transistor({ symbol, from, to }: { symbol: Symbol; from: Point; to: Point }) {
  const side = symbol.flipped ? -1 : 1;
  const middle = (from[1] + to[1]) / 2;
  const reach = SQUARE;
  // Local: the base at the left, the way from top to bottom at x = 0.
  const body =
    symbol.kind === "mosfet" ? (
      <>
        <path d={`M${-reach} 0 H-14 M-14 -11 V11 M-9 -14 V-6 M-9 -4 V4 M-9 6 V14`} />
        <path d={`M-9 -10 H0 V${-reach} M-9 10 H0 V${reach} M-9 0 H0 V10`} />
        <path d="M-7 0 l6 -3.500 v7 Z" className="full" />
      </>
    ) : (
      <>
        {symbol.kind === "npn" && <line x1={-reach} x2="-12" />}
        <line x1="-12" x2="-12" y1="-12" y2="12" strokeWidth="2.6" />
        {symbol.kind === "npn_reversed" ? (
          <>
            <path d={`M-12 5 L0 14 V${reach} M-12 -5 L0 -14 V${-reach}`} />
            <path d="M-1 -13 l-8 2 l4 5 Z" className="full" />
          </>
        ) : (
          <>
            <path d={`M-12 -5 L0 -14 V${-reach} M-12 5 L0 14 V${reach}`} />
            <path d="M-1 13 l-8 -2 l4 -5 Z" className="full" />
          </>
        )}
      </>
    );
  return (
    <>
      <g transform={`translate(${from[0]} ${middle}) scale(${side} 1)`}>{body}</g>
      <text x={from[0] + side * 9} y={middle + 5} textAnchor={side > 0 ? "start" : "end"} fontWeight="600">
        {symbol.called}
      </text>
    </>
  );
}
