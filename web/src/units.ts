/** Quantities as people write and read them. The document keeps SI figures; nothing here knows a rule of the job. */

import { type Prefs, prefsNow } from "./base/prefs";
import { SIZES } from "./document/fields";

/** Size of a unit in the field's own value, and where its zero lies there. */
type Scale = Record<string, number | readonly [size: number, zero: number]>;

export interface Unit {
  /** Shown behind the field. */
  name: string;
  /** What may be typed, and its size in the field's own value. */
  scale: Scale;
  /** Size of `name` in the field's own value, where that is another unit. */
  size?: number;
  /** Where the zero of `name` lies in the field's own value. */
  zero?: number;
  /** How a value is written in the field, where a number alone does not do. */
  write?: (value: number) => string;
}

const LENGTHS: Scale = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, inch: 0.0254, inches: 0.0254, '"': 0.0254, "″": 0.0254, ft: 0.3048, "'": 0.3048 };
/** A length that stays in metres and reads in inches. */
const INCH: Unit = { name: "in", scale: { "": 0.0254, ...LENGTHS }, size: 0.0254 };
/** The same in feet and inches: a number alone is one of inches. */
const FEET: Unit = { ...INCH, write: (metres) => feetAndInches(metres) };
const FAHRENHEIT = [5 / 9, -160 / 9] as const;
const DEGREES: Scale = { "": 1, "°c": 1, c: 1, "°f": FAHRENHEIT, f: FAHRENHEIT };

/** By the symbol of the field's own unit, or of the one that people write it in. */
const UNITS: Record<string, Unit> = {
  "": { name: "", scale: { "": 1 } },
  "1": { name: "", scale: { "": 1, "%": 0.01 } },
  "%": { name: "%", scale: { "": 0.01, "%": 0.01 }, size: 0.01 },
  V: { name: "V", scale: { "": 1, v: 1, mv: 1e-3 } },
  A: { name: "A", scale: { "": 1, a: 1, ma: 1e-3 } },
  mA: { name: "mA", scale: { "": 1e-3, a: 1, ma: 1e-3 }, size: 1e-3 },
  Ah: { name: "Ah", scale: { "": 1, ah: 1, mah: 1e-3 } },
  Wh: { name: "Wh", scale: { "": 1, wh: 1, kwh: 1e3 } },
  ohm: { name: "Ω", scale: { "": 1, ω: 1, ohm: 1, ohms: 1, r: 1, k: 1e3, m: 1e6, kω: 1e3, kohm: 1e3, mω: 1e-3, mohm: 1e-3 } },
  "ohm/m": { name: "Ω/m", scale: { "": 1, "ω/m": 1, "ohm/m": 1 } },
  µF: { name: "µF", scale: { "": 1e-6, f: 1, mf: 1e-3, µf: 1e-6, uf: 1e-6, nf: 1e-9 }, size: 1e-6 },
  W: { name: "W", scale: { "": 1, w: 1, mw: 1e-3 } },
  "W/m": { name: "W/m", scale: { "": 1, "w/m": 1, w: 1 } },
  m: { name: "m", scale: { "": 1, ...LENGTHS } },
  mm: { name: "mm", scale: { ...LENGTHS, "": 0.001 }, size: 0.001 },
  kg: { name: "kg", scale: { "": 1, kg: 1, g: 1e-3, lb: 0.45359237 } },
  g: { name: "g", scale: { "": 1, g: 1, kg: 1000, oz: 28.3495 } },
  s: { name: "s", scale: { "": 1, s: 1, ms: 1e-3, min: 60 } },
  Hz: { name: "Hz", scale: { "": 1, hz: 1, khz: 1e3 } },
  h: { name: "h", scale: { "": 1, h: 1, min: 1 / 60 } },
  min: { name: "min", scale: { "": 1, min: 1, h: 60 } },
  "km/h": { name: "km/h", scale: { "": 1, "km/h": 1, kmh: 1, mph: 1.609344 } },
  "°C": { name: "°C", scale: DEGREES },
  "°F": { name: "°F", scale: { ...DEGREES, "": FAHRENHEIT }, size: FAHRENHEIT[0], zero: FAHRENHEIT[1] },
  lm: { name: "lm", scale: { "": 1, lm: 1 } },
  deg: { name: "°", scale: { "": 1, "°": 1, deg: 1, degrees: 1 } },
  K: { name: "K", scale: { "": 1, k: 1 } },
};

/** How a unit is shown and typed. */
export function unitOf(symbol: string, { lengths, temperature }: Pick<Prefs, "lengths" | "temperature"> = prefsNow()): Unit {
  if (symbol === "°C" && temperature === "F") return UNITS["°F"]!;
  if (symbol === "m" && lengths === "ft") return FEET;
  if ((symbol === "m" || symbol === "mm") && lengths !== "m") return INCH;
  return UNITS[symbol] ?? { name: symbol, scale: { "": 1 } };
}

/** A value of a field in the unit that it is shown in. */
export const shownIn = (value: number, { size = 1, zero = 0 }: Unit) => (value - zero) / size;

/** A value as it stands in its field. */
export const writtenIn = (value: number, unit: Unit) => unit.write?.(value) ?? fieldText(shownIn(value, unit));

/** How a figure in a unit may be typed, for who typed something else. */
const EXAMPLES: Record<string, string> = {
  V: "12 V",
  A: "0.5 A or 500 mA",
  mA: "20 mA or 0.02 A",
  Ah: "7 Ah or 700 mAh",
  Wh: "90 Wh",
  Ω: "470 or 2.2k",
  µF: "100 µF",
  W: "3 W",
  m: "1.2 m, 30 cm or 12 in",
  mm: "35 mm or 3.5 cm",
  in: "18 in, 2' 6\" or 45 cm",
  kg: "12 kg",
  g: "250 g",
  s: "1.5 s or 200 ms",
  h: "2 h or 90 min",
  min: "40 min",
  "%": "80 or 80 %",
  "°C": "-5 °C",
  "°F": "41 °F",
  "°": "15°",
};
export const exampleOf = (unit: Unit) => EXAMPLES[unit.name] ?? `10${unit.name && ` ${unit.name}`}`;

const MILLIMETRES: Scale = Object.fromEntries(Object.entries(LENGTHS).map(([unit, metres]) => [unit, 1000 * (metres as number)]));

/** The unit of a figure that is kept in millimetres, where others are kept in metres. */
export const millimetres = ({ lengths }: Pick<Prefs, "lengths"> = prefsNow()): Unit =>
  lengths === "m" ? { name: "mm", scale: { ...MILLIMETRES, "": 1 } } : { name: "in", scale: { ...MILLIMETRES, "": 25.4 }, size: 25.4 };

/** A number as people type it: `1,5`, `2 500`, `1/4`, `1 1/2`, `½`. `undefined` where it is not one. */
function parseNumber(text: string): number | undefined {
  const plain = text.replace(/(\d)[ \u00a0\u202f'](?=\d{3}(?!\d))/g, "$1").trim();
  const whole = /^[+-]?(?:\d+[.,]?\d*|[.,]\d+)$/;
  if (whole.test(plain)) return Number(plain.replace(",", "."));
  const parts = /^([+-]?)(?:(\d+)\s+)?(?:(\d+)\s*[/⁄]\s*(\d+)|([¼½¾]))$/.exec(plain) ?? /^([+-]?)(\d+)()()([¼½¾])$/.exec(plain);
  if (!parts) return undefined;
  const [, sign, ones, over, under, glyph] = parts;
  const part = glyph ? { "¼": 0.25, "½": 0.5, "¾": 0.75 }[glyph]! : Number(over) / Number(under);
  return Number.isFinite(part) ? (sign === "-" ? -1 : 1) * (Number(ones ?? 0) + part) : undefined;
}

/** A number with an optional unit, or feet with inches; comma or point. `undefined` where it is none. */
export function parseQuantity(text: string, unit: Unit): number | undefined {
  const feet = /^\s*(\d+)\s*(?:'|′|ft)\s*(.+?)\s*(?:"|″|in|inch|inches)?\s*$/i.exec(text);
  const [foot, inch] = [unit.scale["'"], unit.scale['"']];
  if (feet && typeof foot === "number" && typeof inch === "number") {
    const inches = parseNumber(feet[2]!);
    return inches === undefined ? undefined : round(Number(feet[1]) * foot + inches * inch);
  }
  // A minus may be typed as the sign that print has.
  const match = /^\s*([+-]?[\d\s.,/⁄¼½¾\u00a0\u202f]*[\d.,¼½¾])\s*([^\d\s].*?)?\s*$/.exec(text.replace(/^\s*[−–]/, "-"));
  if (!match) return undefined;
  const size = unit.scale[(match[2] ?? "").toLowerCase()];
  const value = parseNumber(match[1]!);
  if (size === undefined || value === undefined) return undefined;
  const [one, zero] = typeof size === "number" ? [size, 0] : size;
  return round(value * one + zero);
}

/** Twelve digits: what a factor of ten leaves behind them is not what was typed. */
const round = (value: number) => Number(value.toPrecision(12));

/** A conductor size as people write it: `22 AWG`, `22awg`, `0.5 mm2`, `0,5mm²`; a bare number by the preference. */
export function parseGauge(text: string, metric: boolean): { awg: number } | { mm2: number } | undefined {
  const match = /^\s*(\d+(?:[.,]\d+)?)\s*(awg|mm2|mm²|mm\^2|ga)?\s*$/i.exec(text.replace(/^\s*(awg)\s*(.+)$/i, "$2 $1"));
  if (!match) return undefined;
  const value = Number(match[1]!.replace(",", "."));
  const unit = (match[2] ?? (metric ? "mm2" : "awg")).toLowerCase();
  if (unit.startsWith("mm")) return value > 0 && value <= SIZES.most_mm2 ? { mm2: value } : undefined;
  return Number.isInteger(value) && value <= SIZES.most_awg ? { awg: value } : undefined;
}

/** A figure as it stands in a field: short, and exact enough to give itself back. */
export function fieldText(value: number): string {
  return String(Number(value.toPrecision(6)));
}

/** A figure with its unit; nothing is shown without one. */
export interface Quantity {
  value: number;
  /** SI unit symbol; `1` for a ratio, empty for a count. */
  unit: string;
}

/** Units by the ends of field names, longest first: a field of the document says its own. */
const FIELD_UNITS = [
  ["_w_per_m", "W/m"],
  ["_ohm_per_m", "Ω/m"],
  ["_ohm", "Ω"],
  ["_kmh", "km/h"],
  ["_mm2", "mm²"],
  ["_ah", "Ah"],
  ["_wh", "Wh"],
  ["_kg", "kg"],
  ["_m", "m"],
  ["_v", "V"],
  ["_a", "A"],
  ["_w", "W"],
  ["_g", "g"],
  ["_h", "h"],
  ["lumens", "lm"],
  ["efficiency", "1"],
] as const;

type FieldName = `${string}${(typeof FIELD_UNITS)[number][0]}`;

/** A field of a document or a report as a quantity: its unit is in its name, and cannot be given wrong. */
export function of<K extends FieldName>(object: { readonly [name in K]?: number | null }, name: K): Quantity {
  const unit = FIELD_UNITS.find(([end]) => name.endsWith(end));
  return { value: object[name] ?? 0, unit: unit?.[1] ?? "" };
}

/** How far a figure may be off, to one digit, in the unit in which the figure `beside` it is said. */
export function giveOf({ value, unit }: Quantity, beside = Infinity): string {
  const milli = Math.abs(beside) < 0.9995;
  const said = milli ? 1000 * value : value;
  const digits = said === 0 ? 0 : Math.min(4, Math.max(0, -Math.floor(Math.log10(Math.abs(said)))));
  return `± ${said.toFixed(digits)} ${milli ? "m" : ""}${unit === "ohm" ? "Ω" : unit}`;
}

/** A quantity to read: three digits and a prefix people use. */
export const read = ({ value, unit }: Quantity): string => plain(value, unit);

/** Feet and inches, to a tenth of an inch: `2' 6.5"`. */
function feetAndInches(metres: number): string {
  const tenths = Math.round(metres / 0.00254);
  const [feet, inches] = [Math.trunc(tenths / 120), Math.abs(tenths % 120) / 10];
  return feet === 0 ? `${(Math.sign(tenths) || 1) * inches}"` : inches === 0 ? `${feet}'` : `${feet}' ${inches}"`;
}

/** A length of metres as the person reads lengths; `undefined` where that is metres. */
function inOwnLength(metres: number): string | undefined {
  const { lengths } = prefsNow();
  if (lengths === "m") return undefined;
  if (lengths === "ft" && Math.abs(metres) >= 0.3048) return feetAndInches(metres);
  return `${Number(trim(metres / 0.0254, 3))} in`;
}

/** A short length as it is read off a ruler. */
export function ruler({ value, unit }: Quantity): string {
  if (unit !== "m") return plain(value, unit);
  const own = inOwnLength(value);
  if (own !== undefined) return own;
  return value < 0.0095 ? `${trim(value * 1000, 2)} mm` : value < 1 ? `${trim(value * 100, 3)} cm` : `${trim(value, 3)} m`;
}

/** As a meter shows it: three digits, zeros too. */
export function onMeter({ value, unit }: Quantity): string {
  const [scaled, prefix] = prefixed(value, Math.abs(Number(value.toPrecision(3))), unit);
  return `${trim(scaled, 3)} ${prefix}${unit === "ohm" ? "Ω" : unit}`;
}

/** Units that take no prefix. */
const BARE = ["", "%", "h", "m", "d", "°C", "°F", "°", "min", "lm", "lx", "cd", "K", "mm", "mm²", "W/m", "Ω/m", "km/h", "ohm·Ah"];

/** As the core writes figures: both are held against one table. */
function plain(value: number, unit: string): string {
  if (unit === "m" || unit === "mm") {
    const own = inOwnLength(unit === "m" ? value : value / 1000);
    if (own !== undefined) return own;
  }
  if (unit === "°C" && prefsNow().temperature === "F") [value, unit] = [shownIn(value, UNITS["°F"]!), "°F"];
  if (unit === "1") [value, unit] = [100 * value, "%"];
  else if (unit === "ohm/m") unit = "Ω/m";
  else if (unit === "deg") unit = "°";
  // Rounded first: 0.9996 A are 1 A.
  const size = Math.abs(Number(value.toPrecision(3)));
  const [scaled, prefix] = prefixed(value, size, unit);
  const big = Math.abs(scaled);
  const text = String(Number(scaled.toFixed(big >= 99.95 ? 0 : big >= 9.995 ? 1 : 2)) || 0);
  return `${text} ${prefix}${unit.replace("ohm", "Ω")}`.trimEnd();
}

function prefixed(value: number, size: number, unit: string): [scaled: number, prefix: string] {
  if (unit === "ohm·m") return [value * 1e9, "n"];
  // What rounding leaves of nothing has no sign, and no prefix.
  if (size < 5e-7 && unit !== "F") return [0, ""];
  if (BARE.includes(unit)) return [value, ""];
  // Nobody says millifarad, or kiloseconds.
  if (unit === "F" && size < 1) return [value * 1e6, "µ"];
  if (size >= 1e3 && unit === "s") return [value, ""];
  if (size >= 1e6) return [value * 1e-6, "M"];
  if (size >= 1e3) return [value * 1e-3, "k"];
  if (size >= 1) return [value, ""];
  return size >= 1e-3 ? [value * 1e3, "m"] : [value * 1e6, "µ"];
}

function trim(value: number, digits: number): string {
  if (value === 0) return "0";
  const size = Math.abs(value);
  if (size < 1e-3) return value.toExponential(digits - 1);
  const places = Math.max(0, digits - 1 - Math.floor(Math.log10(size)));
  return value.toFixed(Math.min(places, 6));
}

/** Hours as a person says them. */
export function hours(value: number | null | undefined): string {
  if (value === null || value === undefined) return "no end";
  if (value < 1) return `${Math.round(value * 60)} min`;
  if (value < 10) return `${value.toFixed(1)} h`;
  if (value < 1000) return `${Math.round(value)} h`;
  return `${Math.round(value / 24)} days`;
}

export function share(value: number): string {
  const percent = value * 100;
  if (percent === 0) return "0 %";
  if (percent >= 9.95) return `${percent.toFixed(0)} %`;
  return percent >= 0.095 ? `${percent.toFixed(1)} %` : "under 0.1 %";
}

/** An amount of money as the person's own language writes it. */
export const money = (value: number, currency: string) => value.toLocaleString([], { style: "currency", currency });

/** A number with its noun in the number that it wants. */
export const counted = (count: number, noun: string) => `${count} ${noun}${count === 1 ? "" : "s"}`;

/** How bright a light is of what it is made for. */
export function brightness(output: number): string {
  if (output <= 0.005) return "off here";
  const percent = Math.round(100 * output);
  return percent > 100 ? `full brightness (${percent - 100} % above rated: wears out sooner)` : `${percent} % bright`;
}

/** A figure of use as a person says it: days that become months, whole seconds, prices, shares. */
export function say({ value, unit }: Quantity): string {
  switch (unit) {
    case "1":
      return share(value);
    case "h":
      return hours(value);
    case "d":
      return value < 1 ? hours(24 * value) : value < 90 ? `${short(value)} days` : value < 730 ? `${Math.round(value / 30.4)} months` : "over two years";
    case "min":
      return value > 0 && value < 0.995 ? `${Math.round(60 * value)} s` : `${short(value)} min`;
    case "s":
      return value < 99.5 ? `${short(value)} s` : `${(value / 60).toFixed(1)} min`;
    case "€":
      return money(value, "EUR");
    case "g":
      return value < 1000 ? `${trim(value, 3)} g` : `${trim(value / 1000, 3)} kg`;
    case "km":
      return value < 0.995 ? `${Math.round(1000 * value)} m` : `${trim(value, 3)} km`;
    case "kg":
      return `${trim(value, 3)} kg`;
    case "":
      return short(value);
    case "Ah":
      return value < 1 ? plain(value, unit) : `${value < 100 ? trim(value, 3) : Math.round(value)} Ah`;
    default:
      return plain(value, unit);
  }
}

/** Two digits, or as many as there are before the point. */
const short = (value: number) => (value < 99.5 ? String(Number(trim(value, 2))) : String(Math.round(value)));

/** A day in the person's own form. */
export function dayWords(day: Date): string {
  const two = (part: number) => String(part).padStart(2, "0");
  const [year, month, date] = [day.getFullYear(), two(day.getMonth() + 1), two(day.getDate())];
  switch (prefsNow().dates) {
    case "iso":
      return `${year}-${month}-${date}`;
    case "dmy":
      return `${date}.${month}.${year}`;
    case "mdy":
      return `${month}/${date}/${year}`;
    case "words":
      return day.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
    case "own":
      return day.toLocaleDateString([], { day: "numeric", month: "short", year: "numeric" });
  }
}

/** Size in metres of what lengths in sentences are said in. */
const SAID = { mm: 0.001, cm: 0.01, m: 1 } as const;

/**
 * The core's sentences with their days, lengths and temperatures in the person's own form. Square millimetres, metres a second and
 * watts a metre are none of a length.
 */
export function inOwn(text: string): string {
  const { lengths, temperature } = prefsNow();
  let own = text.replace(/\b(\d{4})-(\d{2})-(\d{2})\b/g, (_, year: string, month: string, day: string) =>
    dayWords(new Date(Number(year), Number(month) - 1, Number(day))),
  );
  if (lengths !== "m")
    own = own.replace(
      /(?<![\w.,/])([−-]?\d+(?:\.\d+)?) (mm|cm|m)(?![\w²³/·^])/g,
      (said, value: string, unit: keyof typeof SAID) => inOwnLength(Number(value.replace("−", "-")) * SAID[unit]) ?? said,
    );
  if (temperature === "F") own = own.replace(/([−-]?\d+(?:\.\d+)?) °C/g, (_, value: string) => `${Math.round(Number(value.replace("−", "-")) * 1.8 + 32)} °F`);
  return own;
}

export function clock(iso: string): string {
  const then = new Date(iso);
  const today = new Date().toDateString() === then.toDateString();
  return today ? then.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hourCycle: "h23" }) : dayWords(then);
}
