import { readFileSync } from "node:fs";
import { expect, test } from "vitest";

/** Colours by name, those of paper and of night, as the theme's file has them. */
function colours(): Map<string, [paper: string, night: string]> {
  const text = readFileSync(new URL("theme.ts", import.meta.url), "utf8");
  const all = new Map<string, [string, string]>();
  let group = "";
  for (const line of text.slice(text.indexOf("semanticTokens")).split("\n")) {
    group = /^\s*(\w+): \{/.exec(line)?.[1] ?? group;
    for (const [, name, paper, night] of line.matchAll(/(\w+): pair\("(#[0-9a-f]{6})", "(#[0-9a-f]{6})"\)/g))
      all.set(name === "DEFAULT" ? group : `${group}.${name}`, [paper!, night!]);
  }
  return all;
}

/** Relative luminance (WCAG 2.2). */
function luminance(hex: string): number {
  const [red, green, blue] = [1, 3, 5].map((at) => {
    const share = parseInt(hex.slice(at, at + 2), 16) / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * red! + 0.7152 * green! + 0.0722 * blue!;
}

/** Contrast ratio (WCAG 2.2), 1 to 21. */
function contrast(one: string, other: string): number {
  const [light, dark] = [luminance(one), luminance(other)].sort((a, b) => b - a);
  return (light! + 0.05) / (dark! + 0.05);
}

const GROUNDS = ["bg", "bg.subtle", "bg.muted", "bg.panel"];
const THEMES = ["paper", "night"] as const;

test("the ratio is that of the standard", () => {
  expect(contrast("#000000", "#ffffff")).toBeCloseTo(21, 9);
  expect(contrast("#777777", "#ffffff")).toBeCloseTo(4.48, 2);
  expect(contrast("#a5aebd", "#a5aebd")).toBe(1);
});

test("every word can be read on every ground that it stands on, in both themes", () => {
  const all = colours();
  const pairs: [string, string][] = [
    ...["fg", "fg.muted", "fg.subtle", "lantern.fg", "stop.fg", "fix.fg", "note.fg", "good.fg"].flatMap((ink) =>
      GROUNDS.map((ground): [string, string] => [ink, ground]),
    ),
    ["lantern.contrast", "lantern.solid"],
    ...["stop", "fix", "note"].flatMap((tone): [string, string][] => [
      [`${tone}.fg`, `${tone}.bg`],
      ["fg", `${tone}.bg`],
      ["fg.muted", `${tone}.bg`],
    ]),
  ];
  const weak: string[] = [];
  for (const [ink, ground] of pairs)
    THEMES.forEach((theme, at) => {
      const ratio = contrast(all.get(ink)![at]!, all.get(ground)![at]!);
      if (ratio < 4.5) weak.push(`${ink} on ${ground}, ${theme}: ${ratio.toFixed(2)}`);
    });
  expect(weak).toEqual([]);
});

test("what is no word but has to be seen has three to one", () => {
  const all = colours();
  const weak: string[] = [];
  for (const edge of ["border.emphasized", "lantern.focusRing", "lantern.solid", "stop.line", "fix.line", "note.line"])
    for (const ground of ["bg", "bg.panel"])
      THEMES.forEach((theme, at) => {
        const ratio = contrast(all.get(edge)![at]!, all.get(ground)![at]!);
        if (ratio < 3) weak.push(`${edge} on ${ground}, ${theme}: ${ratio.toFixed(2)}`);
      });
  expect(weak).toEqual([]);
});
