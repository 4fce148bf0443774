/** Fields of the document by their place in it, from the core's own table: what they hold, their limits and words. */
import table from "../api/fields.json" with { type: "json" };
import type { Build } from "../api/client";

/** What is known of one field. */
export interface FieldSpec {
  shape: "number" | "whole" | "text" | "flag" | "word" | "triple" | "object" | "list";
  /** Type of one value in it. */
  of: string;
  label?: string;
  /** SI unit symbol of its value; `1` for a share. */
  unit?: string;
  /** The unit that people write it in, where it is another. */
  shown?: string;
  min?: number;
  max?: number;
  /** `min` itself is outside. */
  open?: boolean;
  /** Most characters. */
  most?: number;
  /** It may hold nothing. */
  optional?: boolean;
  /** Word of the glossary. */
  term?: string;
  /** What nothing stands for, in words. */
  nothing?: string;
  /** What leaving it out is read as. */
  usual?: number | string | boolean;
  /** What it holds in an object that is begun by another of its fields. */
  begins?: number;
  /** Where it stands among the fields of its object. */
  place: number;
  /** It belongs to another kind and is kept as it came. */
  carried?: boolean;
  /** Few people need it. */
  seldom?: boolean;
  /** So many entries of a list are looked at, where that is not all of them. */
  used?: number;
  suggests?: readonly string[];
}

type Fields = Record<string, FieldSpec>;
const objects = table.objects as unknown as Record<string, Fields>;
const parts = table.parts as unknown as Record<string, Fields>;

/** A choice: what its `kind` is called, and which record follows; in a field beside it, or among those of its holder. */
interface ChoiceSpec {
  words: string;
  kinds: Record<string, string>;
  beside?: string;
  among?: string;
}
const choices = table.choices as Record<string, ChoiceSpec>;
/** The fields that an object has by its `kind`, among its own. */
function amongOf(object: string, value: Value): Fields {
  const choice = Object.values(choices).find((known) => known.among === object);
  return (choice && objects[choice.kinds[String(inner(value, "kind"))] ?? ""]) ?? {};
}
const words = table.words as unknown as Record<string, [string, string][]>;

/** Sizes of conductors in common use, and what there is at all. */
export const SIZES = table.sizes;

/** The words of a list with what a person reads. */
export const wordsOf = (list: string): readonly (readonly [string, string])[] => words[list] ?? [];

/** What a person reads for a word. */
export const called = (list: string, word: string): string => wordsOf(list).find(([known]) => known === word)?.[1] ?? word;

/** A word as the beginning of a line. */
export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** A field by its object and name, as `Led.if_a`; of a kind of part as `bulb.lumens`. */
export function fieldOf(name: string): FieldSpec {
  const [object = "", field = ""] = name.split(".");
  const spec = objects[object]?.[field] ?? parts[object]?.[field];
  if (!spec) throw new Error(`${name} is not a field of the document`);
  return spec;
}

type Value = Record<string, unknown> | readonly unknown[] | string | number | boolean | null | undefined;

const steps = (at: string): string[] =>
  at
    .split("/")
    .slice(1)
    .map((step) => step.replaceAll("~1", "/").replaceAll("~0", "~"));

/** A step of a pointer. */
export const escaped = (key: string): string => key.replaceAll("~", "~0").replaceAll("/", "~1");

const inner = (value: Value, step: string): Value =>
  value === null || typeof value !== "object" ? undefined : ((value as Record<string, unknown>)[step] as Value);

/** The value at a pointer. */
export const valueAt = (build: Build, at: string): unknown => steps(at).reduce<Value>(inner, build as unknown as Value);

/** The name of the object that a value of this type is, by its own `kind` or by that of the object that holds it. */
function objectOf(type: string, value: Value, holder: Value): string {
  const choice = choices[type];
  if (!choice) return type;
  return choice.kinds[String(inner(choice.beside ? holder : value, "kind"))] ?? type;
}

/** What is known of a field of an object of this type. */
const specOf = (object: string, step: string, value: Value): FieldSpec | undefined => objects[object]?.[step] ?? amongOf(object, value)[step];

/** The fields of the object at a pointer, by its kind, in the order of the table; none that belongs to another kind. */
export function fieldsAt(build: Build, at: string): [string, FieldSpec][] {
  let [object, value]: [string, Value] = ["Build", build as unknown as Value];
  let pointer = "";
  for (const step of steps(at)) {
    const holder = value;
    value = inner(value, step);
    pointer += `/${escaped(step)}`;
    object = objectOf(fieldAt(build, pointer).of, value, holder);
  }
  const inOrder = (fields: Fields) => Object.entries(fields).sort(([, a], [, b]) => a.place - b.place);
  return [...inOrder(amongOf(object, value)), ...inOrder(objects[object] ?? {})].filter(([, spec]) => !spec.carried);
}

/** An object of a choice turned into another kind: what both have stays, what the new one needs is begun. */
export function turned(type: string, value: Record<string, unknown>, kind: string): Record<string, unknown> {
  const record = choices[type]?.kinds[kind] ?? type;
  const kept = Object.entries(value).filter(([name]) => objects[record]?.[name]);
  return { ...begun(record), ...Object.fromEntries(kept), kind };
}

/** What is known of the field at a pointer. */
export function fieldAt(build: Build, at: string): FieldSpec {
  let object = "Build";
  let value = build as unknown as Value;
  let spec: FieldSpec | undefined;
  let entry = false;
  for (const step of steps(at)) {
    const holder = value;
    value = inner(value, step);
    // A step into a list or a map names an entry, which is of the list's own kind.
    if (entry) entry = false;
    else {
      spec = specOf(object, step, holder);
      if (!spec) throw new Error(`${at} is not a field of the document`);
      entry = spec.shape === "list" || (spec.of === "Efficiency" && Array.isArray(value));
    }
    object = spec!.of === "Efficiency" ? "EfficiencyPoint" : objectOf(spec!.of, value, holder);
  }
  // A pointer that ends on an entry asks for what edits that entry.
  return spec!.shape === "list" && !entry ? { ...spec!, shape: SHAPES[spec!.of] ?? (words[spec!.of] ? "word" : "object"), optional: false } : spec!;
}

/** How a plain value of the core's types is edited. */
const SHAPES: Record<string, FieldSpec["shape"]> = { f64: "number", u32: "whole", String: "text", bool: "flag", "[f64; 3]": "triple" };

/** What edits a field: one kind of input, a row of them, or (`apart`) an editor that the step of the job has for it. */
export type Editor = "figure" | "three" | "flag" | "word" | "text" | "long-text" | "gauge" | "figures" | "words" | "colours" | "apart";

/** Characters that a text of one line may have. */
const LINE = 2000;

/** What edits a field. */
export function editorOf(spec: FieldSpec): Editor {
  switch (spec.shape) {
    case "number":
    case "whole":
      return "figure";
    case "triple":
      return "three";
    case "flag":
    case "word":
      return spec.shape;
    case "text":
      return (spec.most ?? 0) > LINE ? "long-text" : "text";
    case "object":
      return spec.of === "Gauge" ? "gauge" : "apart";
    case "list":
      if (SHAPES[spec.of] === "number" || SHAPES[spec.of] === "whole") return "figures";
      if (SHAPES[spec.of] === "triple") return "colours";
      return words[spec.of] ? "words" : "apart";
  }
}

/** Lists of the document whose members are fed: name, the field that holds their feed or feeds, and whether it holds several. */
export const fedLists = (): [string, string, boolean][] =>
  Object.entries(objects["Build"]!).flatMap(([list, { shape, of }]) =>
    shape === "list"
      ? Object.entries(objects[of] ?? {}).flatMap(([field, spec]) =>
          spec.of === "Feed" ? [[list, field, spec.shape === "list"] as [string, string, boolean]] : [],
        )
      : [],
  );

/** Every field of the document's objects, as `Battery.series`. */
export const everyField = (): [string, FieldSpec][] =>
  Object.entries(objects).flatMap(([object, fields]) => Object.entries(fields).map(([name, spec]): [string, FieldSpec] => [`${object}.${name}`, spec]));

/** A new object of this type: what leaving each field out is read as, and what such an object begins with. */
function begun(type: string): Record<string, unknown> {
  const fields = Object.entries(objects[type] ?? {});
  return Object.fromEntries(fields.map(([name, spec]) => [name, spec.begins ?? begin(spec)]).filter(([, value]) => value !== undefined));
}

function begin(spec: FieldSpec): unknown {
  if (spec.optional) return null;
  if (spec.usual !== undefined) return spec.shape === "triple" ? [spec.usual, spec.usual, spec.usual] : spec.usual;
  if (spec.shape !== "list") return undefined;
  return spec.of === "SceneLight" || spec.of === "f64" ? {} : [];
}

/** Writes a value into a draft; an object that is not there yet is begun. */
export function put(draft: Build, at: string, value: unknown, begins: Record<string, unknown> = {}): void {
  const path = steps(at);
  const last = path.pop()!;
  let here = draft as unknown as Record<string, unknown>;
  let pointer = "";
  for (const step of path) {
    pointer += `/${escaped(step)}`;
    if (here[step] === null || here[step] === undefined) here[step] = { ...begun(fieldAt(draft, pointer).of), ...begins };
    here = here[step] as Record<string, unknown>;
  }
  here[last] = value;
}

/** Takes out what stands at a pointer: an entry of a list or a map, or what a field holds. */
export function clear(draft: Build, at: string): void {
  const path = steps(at);
  const last = path.pop()!;
  const here = path.reduce<Value>(inner, draft as unknown as Value);
  if (Array.isArray(here)) here.splice(Number(last), 1);
  else if (here && typeof here === "object") (here as Record<string, unknown>)[last] = null;
}
