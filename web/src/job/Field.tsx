import { Button, Switch } from "@chakra-ui/react";
import { type ReactNode, createContext, memo, useContext } from "react";
import type { Build, Solved } from "../api/client";
import { type FieldSpec, capital, clear, editorOf, fieldAt, fieldOf, fieldsAt, put, valueAt, wordsOf } from "../document/fields";
import type { Edit } from "../document/useBuild";
import { fieldText, millimetres, say, unitOf } from "../units";
import { Choice, FieldGrid, GaugeField, LongTextField, NumberField, TextField } from "./fields";
import { prefsNow, usePrefs } from "../base/prefs";

interface Editing {
  build: Build;
  edit: Edit;
  /** What empty fields stand for, by their place. */
  stands: Solved["stands"];
}

const Context = createContext<Editing | null>(null);

/** Lets the fields below it read and write one build. */
export function EditingProvider({ children, ...editing }: Editing & { children: ReactNode }) {
  return <Context.Provider value={editing}>{children}</Context.Provider>;
}

/** The build that is edited. */
export function useEditing(): Editing {
  const editing = useContext(Context);
  if (!editing) throw new Error("a field stands outside a build");
  return editing;
}

/** The value of a field with what writes it, for an editor of one's own. */
export function useField(at: string): { build: Build; value: unknown; write: (value: unknown) => void } {
  const { build, edit } = useEditing();
  return { build, value: valueAt(build, at), write: (value) => edit((draft) => put(draft, at, value), at) };
}

interface FieldProps {
  /** Its place in the document, a JSON pointer. */
  at: string;
  /** What it is called here, where the table's word does not do. */
  label?: string;
  hint?: string;
  /** What it shows while the object around it is not there. */
  absent?: number;
  /** What that object begins with, apart from what the table says. */
  begins?: Record<string, unknown>;
  /** What goes when this field is emptied, or its `none` chosen. */
  clears?: string;
  /** The choice that stands for nothing at all. */
  none?: string;
  /** Takes a whole row. */
  wide?: boolean;
  /** Suggestions of this build. */
  suggests?: readonly string[];
  /** What the three figures of one field are called; colours where nobody says. */
  three?: readonly [string, string, string];
  /** What else an edit of it changes. */
  then?: (draft: Build) => void;
}

const COLOURS = ["red", "green", "blue"] as const;

/** A field of the build: its label, unit, limits and words are the core's. */
export function Field(props: FieldProps) {
  const { build, edit, stands } = useEditing();
  const { at } = props;
  const stand = stands.find((known) => known.at === at)?.value;
  return <Held {...props} edit={edit} spec={fieldAt(build, at)} stand={stand} held={valueAt(build, at)} />;
}

interface HeldProps extends FieldProps {
  edit: Edit;
  spec: FieldSpec;
  /** What it stands for while it is empty. */
  stand: number | undefined;
  held: unknown;
}

/** The same with what it holds: of all fields on the screen only the one that changed is drawn again. */
const Held = memo(function Held({ edit, spec, stand, held, ...props }: HeldProps) {
  const { at, clears, then, begins } = props;
  const write = (value: unknown) =>
    edit(
      (draft) => {
        if (value === null && clears) clear(draft, clears);
        else put(draft, at, value, begins);
        then?.(draft);
      },
      at,
      spec.shape === "number" || spec.shape === "whole",
    );
  const label = props.label ?? spec.label ?? "";
  switch (editorOf(spec)) {
    case "figure": {
      const value = typeof held === "number" ? held : props.absent;
      return (
        <Figure
          spec={spec}
          label={label}
          hint={props.hint ?? hintOf(spec, value, stand)}
          optional={clears !== undefined}
          value={value ?? null}
          onChange={write}
        />
      );
    }
    case "three":
      return <Triple spec={spec} label={label} names={props.three ?? COLOURS} value={(held ?? [0, 0, 0]) as number[]} onChange={write} />;
    case "flag":
      // Where nothing said is neither yes nor no, each of the three can be chosen.
      if (spec.optional && spec.nothing && stand === undefined)
        return (
          <Choice
            wide={props.wide}
            label={label}
            term={spec.term}
            value={typeof held === "boolean" ? (held ? "yes" : "no") : ""}
            options={[
              ["", capital(spec.nothing)],
              ["yes", "Yes"],
              ["no", "No"],
            ]}
            onChange={(word) => write(word === "" ? null : word === "yes")}
          />
        );
      return (
        <Flag
          label={label}
          on={(held as boolean | null | undefined) ?? Boolean(stand ?? spec.usual)}
          onChange={(on) => write(spec.optional && on === Boolean(stand) ? null : on)}
        />
      );
    case "word": {
      const named = inOwnWeek(wordsOf(spec.of)).map(([word, called]) => [word, capital(called)] as const);
      const options = props.none === undefined ? named : [["", props.none] as const, ...named];
      return (
        <Choice
          wide={props.wide}
          label={label}
          term={spec.term}
          value={(held as string | null | undefined) ?? ""}
          options={options}
          onChange={(word) => write(word || null)}
        />
      );
    }
    case "long-text":
      return <LongTextField label={label} most={spec.most} value={(held as string | undefined) ?? ""} onChange={write} />;
    case "text":
      return (
        <TextField
          label={label}
          most={spec.most}
          picker={spec.shown === "date" || spec.shown === "time" ? spec.shown : undefined}
          value={(held as string | null | undefined) ?? ""}
          suggestions={props.suggests ?? spec.suggests}
          onChange={(text) => {
            if (text !== "") write(text);
            // A day that is being typed is empty until it is one; what has to be there stays as it was.
            else if (spec.optional) write(null);
            else if (spec.shown === undefined) write(text);
          }}
        />
      );
    case "gauge":
      return <GaugeField label={label} term={spec.term} value={held as { awg: number } | { mm2: number }} onChange={write} />;
    case "figures":
      return <Figures spec={spec} label={label} held={held as Figures} onChange={write} />;
    case "words":
      return <Words spec={spec} label={label} held={(held as string[] | null | undefined) ?? []} onChange={write} />;
    case "colours":
      return <Colours spec={spec} label={label} held={(held as number[][] | null | undefined) ?? []} onChange={write} />;
    case "apart":
      return null;
  }
});

/** The days of a week from the one that the person's week begins on; other words as they are. */
function inOwnWeek(words: readonly (readonly [string, string])[]) {
  const first = words.findIndex(([word]) => word === prefsNow().week);
  return first > 0 ? [...words.slice(first), ...words.slice(0, first)] : words;
}

/** Figures in a row, or by name. */
type Figures = readonly number[] | Record<string, number> | null | undefined;

interface FiguresProps {
  spec: FieldSpec;
  label: string;
  held: Figures;
  onChange: (value: Figures) => void;
}

/** A row of figures that grows and shrinks; of figures by name, each under its name. */
function Figures({ spec, label, held, onChange }: FiguresProps) {
  const one: FieldSpec = { ...spec, shape: spec.of === "u32" ? "whole" : "number", optional: false, term: undefined };
  if (held && !Array.isArray(held)) {
    const named = held as Record<string, number>;
    return (
      <fieldset className="triple">
        <legend>{label}</legend>
        <div className="three">
          {Object.entries(named).map(([name, value]) => (
            <Figure key={name} spec={one} label={name} value={value} onChange={(next) => onChange({ ...named, [name]: next! })} />
          ))}
        </div>
      </fieldset>
    );
  }
  const row = (held ?? []) as readonly number[];
  // A list of two is a lowest and a highest: both or none.
  const pair = spec.most === 2;
  return (
    <fieldset className="triple wide">
      <legend>{label}</legend>
      <div className="three">
        {row.map((value, index) => (
          <Figure
            key={index}
            spec={one}
            label={pair ? (index === 0 ? "From" : "To") : `Number ${index + 1}`}
            value={value}
            onChange={(next) => onChange(row.map((old, at) => (at === index ? next! : old)))}
          />
        ))}
      </div>
      <div className="row-buttons">
        <Button
          size="xs"
          variant="outline"
          disabled={row.length >= (spec.most ?? Infinity)}
          onClick={() => onChange([...row, ...Array<number>(pair ? 2 : 1).fill(row.at(-1) ?? Math.max(spec.min ?? 0, 1))])}
        >
          {pair ? "Say from where to where" : "Add one"}
        </Button>
        {row.length > 0 && (
          <Button size="xs" variant="ghost" onClick={() => onChange(row.length > 1 && !pair ? row.slice(0, -1) : spec.optional ? null : [])}>
            {pair ? "Take it out" : "Remove the last"}
          </Button>
        )}
      </div>
    </fieldset>
  );
}

/** Any of a few words. */
function Words({ spec, label, held, onChange }: { spec: FieldSpec; label: string; held: readonly string[]; onChange: (value: string[]) => void }) {
  return (
    <fieldset className="triple wide">
      <legend>{label}</legend>
      <div className="three">
        {wordsOf(spec.of).map(([word, called]) => (
          <Flag
            key={word}
            label={capital(called)}
            on={held.includes(word)}
            onChange={(on) => onChange(on ? [...held, word] : held.filter((known) => known !== word))}
          />
        ))}
      </div>
    </fieldset>
  );
}

/** A row of colours, each of three shares. */
function Colours({ spec, label, held, onChange }: { spec: FieldSpec; label: string; held: readonly number[][]; onChange: (value: number[][] | null) => void }) {
  return (
    <fieldset className="triple wide">
      <legend>{label}</legend>
      {held.map((colour, index) => (
        <Triple
          key={index}
          spec={spec}
          label={`Colour ${index + 1}`}
          names={COLOURS}
          value={colour}
          onChange={(next) => onChange(held.map((old, at) => (at === index ? next : old)))}
        />
      ))}
      <div className="row-buttons">
        <Button size="xs" variant="outline" onClick={() => onChange([...held, [...(held.at(-1) ?? [1, 1, 1])]])}>
          Add one
        </Button>
        {held.length > 0 && (
          <Button size="xs" variant="ghost" onClick={() => onChange(held.length > 1 ? held.slice(0, -1) : null)}>
            Remove the last
          </Button>
        )}
      </div>
    </fieldset>
  );
}

function hintOf(spec: FieldSpec, value: number | undefined, stand: number | undefined): string | undefined {
  if (value !== undefined) return undefined;
  if (stand !== undefined) return `If left blank: ${say({ value: stand, unit: spec.unit ?? "" })}`;
  return spec.nothing && `If left blank: ${spec.nothing}`;
}

interface FigureProps {
  spec: FieldSpec;
  label: string;
  hint?: string;
  optional?: boolean;
  value: number | null;
  onChange: (value: number | null) => void;
}

function Figure({ spec, label, hint, optional, value, onChange }: FigureProps) {
  const prefs = usePrefs();
  return (
    <NumberField
      label={label}
      term={spec.term}
      hint={hint}
      unit={!spec.shown && spec.unit === "mm" ? millimetres(prefs) : unitOf(spec.shown ?? spec.unit ?? "", prefs)}
      whole={spec.shape === "whole"}
      optional={optional || spec.optional}
      min={spec.min}
      max={spec.max}
      open={spec.open}
      value={value}
      onChange={onChange}
    />
  );
}

interface TripleProps {
  spec: FieldSpec;
  label: string;
  names: readonly [string, string, string];
  value: readonly number[];
  onChange: (value: number[]) => void;
}

/** Three figures that belong together. */
function Triple({ spec, label, names, value, onChange }: TripleProps) {
  return (
    <fieldset className="triple">
      <legend>{label}</legend>
      <div className="three">
        {names.map((name, index) => (
          <Figure
            key={name}
            spec={{ ...spec, term: undefined, optional: false }}
            label={name}
            value={value[index] ?? null}
            onChange={(next) => onChange(value.map((old, at) => (at === index ? next! : old)))}
          />
        ))}
      </div>
    </fieldset>
  );
}

/** True or false. */
function Flag({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <Switch.Root className="wide" minH="8" checked={on} onCheckedChange={({ checked }) => onChange(checked)} colorPalette="lantern">
      <Switch.HiddenInput />
      <Switch.Control />
      <Switch.Label fontWeight="normal">{label}</Switch.Label>
    </Switch.Root>
  );
}

interface LikeProps {
  /** The field of the document whose limits and unit it has, as `Strip.length_m`. */
  field: string;
  label?: string;
  hint?: string;
  /** It may be left empty for now. */
  optional?: boolean;
  value: number | null;
  onChange: (value: number | null) => void;
}

/** A figure that is typed before it has a place in the document. */
export function Like({ field, label, ...props }: LikeProps) {
  const spec = fieldOf(field);
  return <Figure {...props} spec={spec} label={label ?? spec.label ?? ""} />;
}

interface FieldsProps {
  /** The object, a JSON pointer. */
  at: string;
  /** Fields that stand first, in this order; else they come as in the table. */
  first?: readonly string[];
  /** Fields that are edited elsewhere. */
  apart?: readonly string[];
  /** What stands before them in the same rows. */
  children?: ReactNode;
}

/** Every field that the object has by its kind, in the order of the core's table; what few people need is folded away. */
export function Fields({ at, first = [], apart = [], children }: FieldsProps) {
  const { build } = useEditing();
  const rank = ([name]: readonly [string, FieldSpec]) => (first.includes(name) ? first.indexOf(name) : first.length);
  const shown = fieldsAt(build, at)
    .filter(([name, spec]) => !apart.includes(name) && name !== "id" && name !== "kind" && (editorOf(spec) !== "apart" || spec.of === "Efficiency"))
    .sort((a, b) => rank(a) - rank(b));
  const one = ([name, spec]: readonly [string, FieldSpec]) =>
    spec.of === "Efficiency" ? <EfficiencyField key={name} at={`${at}/${name}`} /> : <Field key={name} at={`${at}/${name}`} />;
  const seldom = shown.filter(([, spec]) => spec.seldom);
  return (
    <>
      <FieldGrid>
        {children}
        {shown.filter(([, spec]) => !spec.seldom).map(one)}
      </FieldGrid>
      {seldom.length > 0 && <MoreFields>{seldom.map(one)}</MoreFields>}
    </>
  );
}

/** Fields that few people need, folded away. */
export function MoreFields({ title = "More figures", children }: { title?: string; children: ReactNode }) {
  return (
    <details className="more">
      <summary>{title}</summary>
      <FieldGrid>{children}</FieldGrid>
    </details>
  );
}

/** An efficiency: one figure, or a table over input voltage. */
export function EfficiencyField({ at }: { at: string }) {
  const { build, edit } = useEditing();
  const held = valueAt(build, at) as number | { vin_v: number; efficiency: number }[];
  if (!Array.isArray(held))
    return (
      <div className="wide">
        <FieldGrid>
          <Field at={at} />
          <Button
            size="xs"
            variant="ghost"
            alignSelf="end"
            minH="9"
            onClick={() => edit((draft) => put(draft, at, [{ vin_v: valueAt(draft, at.replace(/efficiency$/, "max_in_v")), efficiency: held }]), at)}
          >
            It depends on the input …
          </Button>
        </FieldGrid>
      </div>
    );
  return (
    <fieldset className="triple wide">
      <legend>Efficiency by input voltage</legend>
      {held.map((point, index) => (
        <div key={index} className="three">
          <Field at={`${at}/${index}/vin_v`} />
          <Field at={`${at}/${index}/efficiency`} />
          <Button
            size="xs"
            variant="ghost"
            alignSelf="end"
            minH="9"
            aria-label={`Remove the point at ${fieldText(point.vin_v)} V`}
            onClick={() => edit((draft) => (held.length > 1 ? clear(draft, `${at}/${index}`) : put(draft, at, point.efficiency)), at)}
          >
            Remove
          </Button>
        </div>
      ))}
      <Button
        size="xs"
        variant="outline"
        mt="2"
        onClick={() => edit((draft) => put(draft, at, [...held, { ...held.at(-1)!, vin_v: Number((1.1 * held.at(-1)!.vin_v).toPrecision(3)) }]), at)}
      >
        Add a point
      </Button>
    </fieldset>
  );
}
