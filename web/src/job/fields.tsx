import { type ReactNode, memo, useEffect, useId, useRef, useState } from "react";
import { SIZES } from "../document/fields";
import { type Unit, exampleOf, parseGauge, parseQuantity, writtenIn } from "../units";
import { usePrefs } from "../base/prefs";
import { useSteady } from "../base/steady";
import { Term } from "./Figure";

/** A label, with the word of the trade in it explained behind a small mark. */
function Label({ htmlFor, term, children }: { htmlFor: string; term?: string; children: ReactNode }) {
  return (
    <div className="field-label">
      <label htmlFor={htmlFor}>{children}</label>
      {term && <Term word={term} />}
    </div>
  );
}

interface NumberFieldProps {
  label: string;
  value: number | null;
  unit: Unit;
  /** Least value. */
  min?: number;
  max?: number;
  /** `min` itself is outside. */
  open?: boolean;
  whole?: boolean;
  /** An empty field means `null`. */
  optional?: boolean;
  hint?: string;
  /** A word of the trade that the glossary explains. */
  term?: string;
  onChange: (value: number | null) => void;
}

/** A figure typed with or without its unit. What cannot be read stays in the field with a word about why. */
export function NumberField(props: NumberFieldProps) {
  return <Quantity {...props} onChange={useSteady(props.onChange)} />;
}

const Quantity = memo(function Quantity({ label, value, unit, min = 0, max = 1e6, open, whole, optional, hint, term, onChange }: NumberFieldProps) {
  const id = useId();
  const shown = value === null ? "" : writtenIn(value, unit);
  const [text, setText] = useState(shown);
  const [fault, setFault] = useState<string>();
  const typing = useRef(false);
  const before = useRef(value);

  // Undo, remedies and other windows change the value from outside; the hand at the keyboard goes first.
  useEffect(() => {
    if (!typing.current) {
      setText(shown);
      setFault(undefined);
    }
  }, [shown]);

  const read = (next: string) => {
    setText(next);
    if (next.trim() === "" && optional) {
      setFault(undefined);
      onChange(null);
      return;
    }
    const parsed = parseQuantity(next, unit);
    if (parsed === undefined) setFault(`Type a number, for example ${exampleOf(unit)}`);
    else if (whole && !Number.isInteger(parsed)) setFault("Give a whole number");
    else if (open && parsed <= min) setFault(`Give more than ${writtenIn(min, unit)} ${unit.name}`);
    else if (parsed < min) setFault(`Give at least ${writtenIn(min, unit)} ${unit.name}`);
    else if (parsed > max) setFault(`Give at most ${writtenIn(max, unit)} ${unit.name}`);
    else {
      setFault(undefined);
      onChange(parsed);
    }
  };

  const note = fault ?? hint;
  return (
    <div>
      <Label htmlFor={id} term={term}>
        {label}
      </Label>
      <div style={{ position: "relative" }}>
        <input
          id={id}
          className={unit.name ? "control united" : "control"}
          inputMode="decimal"
          autoComplete="off"
          value={text}
          aria-invalid={fault !== undefined || undefined}
          aria-describedby={note ? `${id}-note` : undefined}
          onFocus={(event) => {
            typing.current = true;
            before.current = value;
            event.target.select();
          }}
          onKeyDown={(event) => {
            // Escape leaves the figure as it was when the hand came to it.
            if (event.key !== "Escape" || (value === before.current && fault === undefined)) return;
            event.preventDefault();
            event.stopPropagation();
            setFault(undefined);
            setText(before.current === null ? "" : writtenIn(before.current, unit));
            if (value !== before.current) onChange(before.current as number);
          }}
          onBlur={() => {
            typing.current = false;
            if (fault === undefined) setText(shown);
          }}
          onChange={(event) => read(event.target.value)}
        />
        {unit.name && (
          <span aria-hidden className="field-unit">
            {unit.name}
          </span>
        )}
      </div>
      {note && (
        <div id={`${id}-note`} className={fault ? "field-note fault" : "field-note"} aria-live={fault ? "polite" : undefined}>
          {note}
        </div>
      )}
    </div>
  );
});

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  term?: string;
  /** Takes a whole row, so that the longest of its words fits. */
  wide?: boolean;
  onChange: (value: T) => void;
}

/** Letters that half a row and a whole one of an editor show. */
const HALF_ROW = 17;
const WHOLE_ROW = 28;

/** One of a few words. What is chosen is always read whole. */
export function Choice<T extends string>({ label, value, options, term, wide, onChange }: ChoiceProps<T>) {
  const id = useId();
  const long = options.some(([, name]) => name.length > HALF_ROW);
  const chosen = options.find(([word]) => word === value)?.[1];
  return (
    <div className={wide || long ? "wide" : undefined}>
      <Label htmlFor={id} term={term}>
        {label}
      </Label>
      <select id={id} className="control" value={value} onChange={(event) => onChange(event.target.value as T)}>
        {options.map(([word, name]) => (
          <option key={word} value={word}>
            {name}
          </option>
        ))}
      </select>
      {chosen !== undefined && chosen.length > WHOLE_ROW && <div className="field-note">{chosen}</div>}
    </div>
  );
}

/** Words over several lines. */
export function LongTextField({ label, value, most, onChange }: { label: string; value: string; most?: number; onChange: (value: string) => void }) {
  const id = useId();
  return (
    <div className="wide">
      <Label htmlFor={id}>{label}</Label>
      <textarea id={id} className="control long" rows={3} maxLength={most} value={value} onChange={(event) => onChange(event.target.value)} />
    </div>
  );
}

/** Words, with suggestions where there are some. */
export function TextField({
  label,
  value,
  suggestions,
  placeholder,
  most = 200,
  picker,
  onChange,
}: {
  label: string;
  value: string;
  /** A day or a time of day is picked, in the person's own form. */
  picker?: "date" | "time";
  suggestions?: readonly string[];
  placeholder?: string;
  /** Most characters. */
  most?: number;
  onChange: (value: string) => void;
}) {
  const id = useId();
  return (
    <div>
      <Label htmlFor={id}>{label}</Label>
      <input
        className="control"
        id={id}
        type={picker}
        list={suggestions && `${id}-list`}
        maxLength={most}
        value={value}
        placeholder={placeholder}
        onChange={(event) => onChange(event.target.value)}
      />
      {suggestions && (
        <datalist id={`${id}-list`}>
          {suggestions.map((word) => (
            <option key={word} value={word} />
          ))}
        </datalist>
      )}
    </div>
  );
}

/** Fields side by side where there is room. */
export function FieldGrid({ children }: { children: ReactNode }) {
  return <div className="field-grid">{children}</div>;
}

type Gauge = { awg: number } | { mm2: number };
export const gaugeName = (gauge: Gauge) => ("awg" in gauge ? `${gauge.awg} AWG` : `${gauge.mm2} mm²`);

/** A conductor size, typed as people write it. */
export function GaugeField({ label, value, term, onChange }: { label: string; value: Gauge; term?: string; onChange: (gauge: Gauge) => void }) {
  const id = useId();
  const { metric } = usePrefs();
  const shown = gaugeName(value);
  const [text, setText] = useState(shown);
  const [fault, setFault] = useState(false);
  const typing = useRef(false);
  useEffect(() => {
    if (!typing.current) {
      setText(shown);
      setFault(false);
    }
  }, [shown]);
  return (
    <div>
      <Label htmlFor={id} term={term}>
        {label}
      </Label>
      <input
        className="control"
        id={id}
        list={`${id}-sizes`}
        value={text}
        aria-invalid={fault || undefined}
        aria-describedby={fault ? `${id}-note` : undefined}
        onFocus={(event) => {
          typing.current = true;
          event.target.select();
        }}
        onBlur={() => {
          typing.current = false;
          if (!fault) setText(shown);
        }}
        onChange={(event) => {
          setText(event.target.value);
          const gauge = parseGauge(event.target.value, metric);
          setFault(!gauge);
          if (gauge) onChange(gauge);
        }}
      />
      <datalist id={`${id}-sizes`}>
        {(metric ? SIZES.mm2.map((mm2) => gaugeName({ mm2 })) : SIZES.awg.map((awg) => gaugeName({ awg }))).map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
      {fault && (
        <div id={`${id}-note`} className="field-note fault" aria-live="polite">
          Give a size such as 22 AWG or 0.5 mm²
        </div>
      )}
    </div>
  );
}
