import type { Part } from "../api/client";
import table from "../api/fields.json" with { type: "json" };
import { type FieldSpec, wordsOf } from "./fields";

/** A field of a part: where it stands in it, and what is known of it. */
export interface PartField {
  path: readonly string[];
  spec: FieldSpec;
  /** Words to choose from, where it holds one of a list. */
  words?: readonly (readonly [string, string])[];
  /** It is a size of wire. */
  gauge?: boolean;
  /** Which of three it is. */
  index?: number;
  label: string;
}

const objects = table.objects as unknown as Record<string, Record<string, FieldSpec>>;
const kinds = table.parts as unknown as Record<string, Record<string, FieldSpec>>;
const choices = table.choices as unknown as Record<string, { kinds: Record<string, string>; among?: string }>;
/** The fields of an object by its kind. */
const fieldsOf = (type: string, value: Record<string, unknown>): Record<string, FieldSpec> => {
  const among = Object.values(choices).find((choice) => choice.among === type);
  const own = Object.entries(objects[type] ?? {});
  const more = among ? Object.entries(objects[among.kinds[String(value["kind"])] ?? ""] ?? {}) : [];
  return Object.fromEntries([...more, ...own].filter(([, spec]) => !spec.carried));
};

const TRIPLES: Record<string, readonly string[]> = { size_mm: ["Length", "Width", "Height"] };
const AXES = ["1st", "2nd", "3rd"];

/** What is asked first; the rest follows in the order of the core's table. */
const FIRST = [
  "name",
  "figures_from",
  "chemistry",
  "colour",
  "draw",
  "kind",
  "gauge",
  "style",
  "series",
  "parallel",
  "capacity_ah",
  "rated_hours",
  "voltage_v",
  "vf_v",
  "if_a",
  "power_w",
];
const LAST = ["size_mm", "mass_g", "price_eur"];
const rank = (field: PartField) => {
  const name = field.path[field.path.length - 1]!;
  if (LAST.includes(name)) return 200 + LAST.indexOf(name);
  return FIRST.includes(name) ? FIRST.indexOf(name) : 100;
};

/** Every figure and word of a part that a person can type, the most telling first. */
export function fieldsOfPart(part: Part): PartField[] {
  const all: PartField[] = [];
  const walk = (fields: Record<string, FieldSpec>, value: Record<string, unknown>, path: readonly string[]) => {
    for (const [name, spec] of Object.entries(fields)) {
      const here = value[name];
      const at = [...path, name];
      if (spec.shape === "number" || spec.shape === "whole" || spec.shape === "text" || spec.shape === "flag") {
        // A figure that is a table in this part is not typed in one line.
        if (typeof here !== "object" || here === null) all.push({ path: at, spec, label: spec.label ?? name });
      } else if (spec.shape === "word") all.push({ path: at, spec, words: wordsOf(spec.of), label: spec.label ?? name });
      else if (spec.shape === "triple") {
        const labels = TRIPLES[name] ?? AXES.map((axis) => `${spec.label ?? name}, ${axis}`);
        labels.forEach((label, index) => all.push({ path: at, spec, index, label }));
      } else if (spec.shape === "object" && here !== null && typeof here === "object") {
        const type = choices[spec.of]?.kinds[String((here as Record<string, unknown>)["kind"])] ?? spec.of;
        if (type === "Gauge") all.push({ path: at, spec, gauge: true, label: spec.label ?? "Wire" });
        else if (objects[type]) walk(fieldsOf(type, here as Record<string, unknown>), here as Record<string, unknown>, at);
      }
    }
  };
  const head = Object.fromEntries(Object.entries(objects["Part"] ?? {}).filter(([name]) => !["id", "retired", "what"].includes(name)));
  walk(head, part as unknown as Record<string, unknown>, []);
  const what = part.what as unknown as Record<string, unknown>;
  walk(kinds[String(what["kind"])] ?? {}, what, ["what"]);
  return all.sort((a, b) => rank(a) - rank(b));
}

export const valueIn = (part: Part, path: readonly string[]): unknown =>
  path.reduce<unknown>((value, step) => (value !== null && typeof value === "object" ? (value as Record<string, unknown>)[step] : undefined), part);

/** A copy of a part with another value in it. */
export function withValue(part: Part, path: readonly string[], value: unknown): Part {
  const copy = structuredClone(part) as unknown as Record<string, unknown>;
  const last = path[path.length - 1]!;
  const into = path.slice(0, -1).reduce<Record<string, unknown>>((inner, step) => inner[step] as Record<string, unknown>, copy);
  into[last] = value;
  return copy as unknown as Part;
}
