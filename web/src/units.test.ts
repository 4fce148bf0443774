import { expect, test } from "vitest";
import { fieldText, giveOf, hours, parseGauge, parseQuantity, read as readQuantity, say, share, unitOf } from "./units";

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
    ["18", unitOf("m", true), 0.4572],
    ["50cm", unitOf("m", true), 0.5],
  ] as const;
  for (const [text, unit, value] of cases) expect(parseQuantity(text, unit), text).toBeCloseTo(value, 9);
  for (const text of ["", "ten", "12 apples", "1.2.3", "--4", "1 2", "5 kg"]) expect(parseQuantity(text, unitOf("V")), text).toBeUndefined();
});

test("wires are read as people type them", () => {
  for (const text of ["22 AWG", "22awg", "22", " 22 awg "]) expect(parseGauge(text, false), text).toEqual({ awg: 22 });
  for (const text of ["0.5 mm2", "0,5mm²", "0.5mm2", "0.5 mm^2"]) expect(parseGauge(text, false), text).toEqual({ mm2: 0.5 });
  expect(parseGauge("0.75", true)).toEqual({ mm2: 0.75 });
  for (const text of ["thick", "0.5 awg", "99 awg", "0 mm2", "-1"]) expect(parseGauge(text, false), text).toBeUndefined();
});

test("figures are written as people say them", () => {
  const cases: [number, string, string][] = [
    [0.1842, "A", "184 mA"],
    [12, "V", "12.0 V"],
    [0.92, "1", "92.0 %"],
    [2200, "ohm", "2.20 kΩ"],
    [1.46e-26, "W", "0 W"],
    [27, "", "27"],
    [0.45, "m", "0.450 m"],
    [-3e-9, "A", "0 A"],
    [-1e-12, "W", "0 W"],
  ];
  for (const [value, unit, text] of cases) expect(readQuantity({ value, unit })).toBe(text);
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
    [54.6, "€", "€ 55"],
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
