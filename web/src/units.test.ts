import { readFileSync } from "node:fs";
import { afterEach, expect, test } from "vitest";
import { type Prefs, USUAL, prefsOf, setPrefs } from "./base/prefs";
import {
  brightness,
  counted,
  exampleOf,
  fieldText,
  giveOf,
  hours,
  millimetres,
  onMeter,
  inOwn,
  parseGauge,
  parseQuantity,
  read as readQuantity,
  ruler,
  say,
  share,
  unitOf,
  writtenIn,
} from "./units";

const INCHES = { lengths: "in", temperature: "C" } as const;

afterEach(() => setPrefs(USUAL));

test("figures are read as people type them", () => {
  const cases = [
    ["12", unitOf("V"), 12],
    ["12 V", unitOf("V"), 12],
    ["5v", unitOf("V"), 5],
    ["1,5 V", unitOf("V"), 1.5],
    [".5", unitOf("V"), 0.5],
    ["300mA", unitOf("A"), 0.3],
    ["300mA", unitOf("mA"), 0.3],
    ["0.3 A", unitOf("mA"), 0.3],
    ["7000 mAh", unitOf("Ah"), 7],
    ["2.2k", unitOf("ohm"), 2200],
    ["470 Ω", unitOf("ohm"), 470],
    ["18in", unitOf("m"), 0.4572],
    ['18 "', unitOf("m"), 0.4572],
    ["90 cm", unitOf("m"), 0.9],
    ["2 ft", unitOf("m"), 0.6096],
    ["18", unitOf("m", INCHES), 0.4572],
    ["50cm", unitOf("m", INCHES), 0.5],
    ["1/4 in", unitOf("m"), 0.00635],
    ["1 1/2 in", unitOf("m"), 0.0381],
    ["1½ in", unitOf("m"), 0.0381],
    ["¾", unitOf("m", INCHES), 0.01905],
    ["2' 6\"", unitOf("m"), 0.762],
    ["2 ft 6 in", unitOf("m"), 0.762],
    ["5'11 1/2\"", unitOf("m"), 1.8161],
    ["2 500 mAh", unitOf("Ah"), 2.5],
    ["12 000", unitOf("ohm"), 12000],
    ["2.5k", unitOf("ohm"), 2500],
    ["1M", unitOf("ohm"), 1e6],
    ["-10", unitOf("°C"), -10],
    ["−10 °C", unitOf("°C"), -10],
  ] as const;
  for (const [text, unit, value] of cases) expect(parseQuantity(text, unit), text).toBeCloseTo(value, 9);
  for (const text of ["", "ten", "12 apples", "1.2.3", "--4", "1 2", "5 kg", "1/0", "1/", "2'", "1 23"])
    expect(parseQuantity(text, unitOf("V")), text).toBeUndefined();
});

test("wires are read as people type them", () => {
  for (const text of ["22 AWG", "22awg", "22", " 22 awg ", "AWG 22", "awg22"]) expect(parseGauge(text, false), text).toEqual({ awg: 22 });
  for (const text of ["0.5 mm2", "0,5mm²", "0.5mm2", "0.5 mm^2"]) expect(parseGauge(text, false), text).toEqual({ mm2: 0.5 });
  expect(parseGauge("0.75", true)).toEqual({ mm2: 0.75 });
  for (const text of ["thick", "0.5 awg", "99 awg", "0 mm2", "-1"]) expect(parseGauge(text, false), text).toBeUndefined();
});

test("figures are written as people say them", () => {
  // The core's own formatter is held against the same table.
  const table = readFileSync(new URL("../../core/testing/figures.txt", import.meta.url), "utf8");
  const lines = table.split("\n").filter((line) => line && !line.startsWith("#"));
  expect(lines.length).toBeGreaterThan(40);
  for (const line of lines) {
    const [value = "", unit = "", ...text] = line.split(" ");
    expect(readQuantity({ value: Number(value), unit: unit === "." ? "" : unit }), line).toBe(text.join(" "));
  }
  expect([0.5, 3.24, 46.4, 2400, null].map((value) => hours(value))).toEqual(["30 min", "3.2 h", "46 h", "100 days", "no end"]);
  expect([0.5, 0.004, 0.00001].map(share)).toEqual(["50 %", "0.4 %", "under 0.1 %"]);
  // What stands in a field gives itself back.
  for (const value of [0.0333333, 14, 1e-6, 123456]) expect(Number(fieldText(value))).toBeCloseTo(value, 6);
});

test("how far a figure may be off is said in the unit that it is said in", () => {
  const cases: [number, number | undefined, string, string][] = [
    [0.06, undefined, "Ah", "± 0.06 Ah"],
    [0.06, 12.4, "Ah", "± 0.06 Ah"],
    [0.06, -0.31, "Ah", "± 60 mAh"],
    [0.0004, 0.31, "Ah", "± 0.4 mAh"],
    [1.2, 14, "Ah", "± 1 Ah"],
    [0.002, 0.08, "ohm", "± 2 mΩ"],
    [0, undefined, "V", "± 0 V"],
  ];
  for (const [value, beside, unit, text] of cases) expect(giveOf({ value, unit }, beside), `${value} beside ${beside}`).toBe(text);
  // The figure and what stands beside it never differ in their prefix.
  for (let exponent = -2.9; exponent < 2.9; exponent += 0.07) {
    const value = 10 ** exponent;
    const unitOfFigure = say({ value, unit: "Ah" }).split(" ")[1];
    expect(giveOf({ value: value / 20, unit: "Ah" }, value).split(" ")[2], `${value} Ah`).toBe(unitOfFigure);
  }
});

test("a figure with its unit reads back as it is written", () => {
  for (const symbol of [
    "V",
    "A",
    "Ah",
    "Wh",
    "ohm",
    "W",
    "m",
    "kg",
    "g",
    "s",
    "Hz",
    "h",
    "min",
    "°C",
    "K",
    "lm",
    "%",
    "mA",
    "µF",
    "mm",
    "km/h",
    "ohm/m",
    "W/m",
  ]) {
    const unit = unitOf(symbol);
    const size = unit.size ?? 1;
    for (let step = 0; step < 60; step++) {
      // Spread over nine decades, some of them negative.
      const value = (step % 7 === 3 ? -1 : 1) * 10 ** (step / 6.7 - 4) * (1 + (step % 9) / 9);
      const text = `${fieldText(value / size)} ${unit.name}`;
      const read = parseQuantity(text.replace(/e[+-]\d+/, ""), unit);
      // A field never shows an exponent that it could not read; what is that small or large is none of a person's figures.
      if (/e[+-]\d+/.test(text)) continue;
      expect(Math.abs(read! / value - 1), `${text} of ${symbol}`).toBeLessThan(1e-5);
      expect(parseQuantity(text.replace(".", ","), unit), `${text} with a comma`).toBe(read);
    }
  }
});

test("what a battery goes through is said as people say it", () => {
  const cases: [number, string, string][] = [
    [0.2041, "1", "20 %"],
    [0, "1", "0 %"],
    [0.5, "d", "12 h"],
    [19.4, "d", "19 days"],
    [200, "d", "7 months"],
    [900, "d", "over two years"],
    [0, "min", "0 min"],
    [0.77, "min", "46 s"],
    [90, "min", "90 min"],
    [21.3, "s", "21 s"],
    [54.6, "€", (54.6).toLocaleString([], { style: "currency", currency: "EUR" })],
    [1541, "g", "1.54 kg"],
    [0.076, "km", "76 m"],
    [4.996, "", "5"],
    [159, "", "159"],
    [1250, "Ah", "1250 Ah"],
    [0.433, "Ah", "433 mAh"],
    [12.6, "V", "12.6 V"],
  ];
  for (const [value, unit, words] of cases) expect(say({ value, unit }), `${value} ${unit}`).toBe(words);
});

test("a meter shows its zeros", () => {
  const cases: [number, string, string][] = [
    [12, "V", "12.0 V"],
    [42, "V", "42.0 V"],
    [0.1842, "A", "184 mA"],
    [0.02, "A", "20.0 mA"],
    [2200, "ohm", "2.20 kΩ"],
    [0, "V", "0 V"],
    [-0.31, "A", "-310 mA"],
  ];
  for (const [value, unit, text] of cases) expect(onMeter({ value, unit })).toBe(text);
});

test("a light that shines more than it should is told as that", () => {
  const cases: [number, string][] = [
    [0, "off here"],
    [0.004, "off here"],
    [0.5, "50 % bright"],
    [1, "100 % bright"],
    [1.004, "100 % bright"],
    [1.21, "full brightness (21 % above rated: wears out sooner)"],
  ];
  for (const [output, text] of cases) expect(brightness(output)).toBe(text);
  expect([0, 1, 2].map((count) => counted(count, "danger"))).toEqual(["0 dangers", "1 danger", "2 dangers"]);
});

test("lengths are read as off a ruler", () => {
  const cases: [number, Prefs["lengths"], string][] = [
    [0.0069, "m", "6.9 mm"],
    [0.0095, "m", "0.950 cm"],
    [0.12, "m", "12.0 cm"],
    [1.35, "m", "1.35 m"],
    [0.0254, "in", "1 in"],
    [0.5, "in", "19.7 in"],
    [0.5, "ft", "1' 7.7\""],
    [0.2, "ft", "7.87 in"],
    [0.6096, "ft", "2'"],
    [-1.016, "ft", "-3' 4\""],
  ];
  for (const [value, lengths, text] of cases) {
    setPrefs({ lengths });
    expect(ruler({ value, unit: "m" }), `${value} in ${lengths}`).toBe(text);
  }
  setPrefs(USUAL);
  // What is kept in millimetres is typed in them, or in inches.
  expect([parseQuantity("2", millimetres()), parseQuantity("2", millimetres(INCHES)), parseQuantity("1 cm", millimetres(INCHES))]).toEqual([2, 50.8, 10]);
});

test("figures of use are said as people say them", () => {
  const cases: [number, string, string][] = [
    [0.04, "d", "58 min"],
    [12.3, "d", "12 days"],
    [200, "d", "7 months"],
    [900, "d", "over two years"],
    [0.5, "min", "30 s"],
    [40, "min", "40 min"],
    [120, "s", "2.0 min"],
    [12.4, "€", (12.4).toLocaleString([], { style: "currency", currency: "EUR" })],
    [1500, "g", "1.50 kg"],
    [0.4, "km", "400 m"],
    [12, "Ah", "12.0 Ah"],
    [0.2, "Ah", "200 mAh"],
    [0.25, "1", "25 %"],
  ];
  for (const [value, unit, text] of cases) expect(say({ value, unit }), `${value} ${unit}`).toBe(text);
});

test("days in the core's sentences are in the person's own form", () => {
  const day = new Date(2026, 11, 1).toLocaleDateString([], { day: "numeric", month: "short", year: "numeric" });
  expect(inOwn("Charge by 2026-12-01, at the latest.")).toBe(`Charge by ${day}, at the latest.`);
  expect(inOwn("Nothing to do: 12-01.")).toBe("Nothing to do: 12-01.");
});

test("what is given as an example can be typed", () => {
  for (const symbol of ["", "1", "V", "A", "mA", "Ah", "Wh", "ohm", "µF", "W", "m", "mm", "kg", "g", "s", "h", "min", "%", "°C", "lm", "km/h"]) {
    const unit = unitOf(symbol);
    for (const text of exampleOf(unit).split(/, | or /)) expect(parseQuantity(text, unit), `${symbol}: ${text}`).toBeDefined();
  }
  for (const text of exampleOf(unitOf("m", INCHES)).split(/, | or /)) expect(parseQuantity(text, unitOf("m", INCHES)), text).toBeGreaterThan(0.4);
});

test("feet and degrees Fahrenheit are written as they are read", () => {
  const feet = unitOf("m", { lengths: "ft", temperature: "F" });
  const degrees = unitOf("°C", { lengths: "ft", temperature: "F" });
  for (const metres of [0, 0.0254, 0.3048, 0.762, 1.8161, 12.5]) {
    const text = writtenIn(metres, feet);
    expect(Math.abs(parseQuantity(text, feet)! - metres), `${metres} m as ${text}`).toBeLessThan(0.0013);
  }
  expect([writtenIn(0.762, feet), parseQuantity("30", feet), parseQuantity("1 m", feet)]).toEqual(["2' 6\"", 0.762, 1]);
  for (const [celsius, fahrenheit] of [
    [-40, "-40"],
    [0, "32"],
    [5, "41"],
    [100, "212"],
  ] as const) {
    expect(writtenIn(celsius, degrees)).toBe(fahrenheit);
    expect(parseQuantity(fahrenheit, degrees)).toBeCloseTo(celsius, 9);
    // Either may be typed whatever is shown.
    expect(parseQuantity(`${fahrenheit} °F`, unitOf("°C"))).toBeCloseTo(celsius, 9);
    expect(parseQuantity(`${celsius} °C`, degrees)).toBeCloseTo(celsius, 9);
  }
  for (const text of exampleOf(degrees).split(/, | or /)) expect(parseQuantity(text, degrees)).toBeCloseTo(5, 9);
});

test("the core's sentences follow what the person reads in", () => {
  const said = "Cut 35 mm of sleeve and 1.2 m of 0.75 mm² wire; at 60 °C it carries 7.2 W/m, 30 m/s of wind or 60/m aside.";
  expect(inOwn(said)).toBe(said);
  setPrefs({ lengths: "in" });
  expect(inOwn(said)).toBe("Cut 1.38 in of sleeve and 47.2 in of 0.75 mm² wire; at 60 °C it carries 7.2 W/m, 30 m/s of wind or 60/m aside.");
  setPrefs({ lengths: "ft", temperature: "F" });
  expect(inOwn(said)).toBe("Cut 1.38 in of sleeve and 3' 11.2\" of 0.75 mm² wire; at 140 °F it carries 7.2 W/m, 30 m/s of wind or 60/m aside.");
  expect(inOwn("Below −10 °C, or 4.5 cm.")).toBe("Below 14 °F, or 1.77 in.");
  const days: [Prefs["dates"], string][] = [
    ["iso", "by 2026-12-01"],
    ["dmy", "by 01.12.2026"],
    ["mdy", "by 12/01/2026"],
    ["words", "by 1 Dec 2026"],
  ];
  for (const [dates, text] of days) {
    setPrefs({ dates });
    expect(inOwn("by 2026-12-01"), dates).toBe(text);
  }
});

test("what an earlier version kept is understood, and nonsense is not", () => {
  expect(prefsOf(null, null)).toEqual(USUAL);
  expect(prefsOf('{"imperial":true,"metric":true}', "light")).toEqual({ ...USUAL, lengths: "in", metric: true, theme: "light" });
  expect(prefsOf('{"imperial":false}', "system")).toEqual({ ...USUAL, theme: "system" });
  expect(prefsOf("{", "pink")).toEqual(USUAL);
});
