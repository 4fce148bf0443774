import { Box, Field, Input, InputGroup, NativeSelect } from "@chakra-ui/react";
import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import { type Unit, fieldText, parseQuantity } from "../units";

interface NumberFieldProps {
  label: string;
  value: number | null;
  unit: Unit;
  /** Least value in the unit shown. */
  min?: number;
  max?: number;
  whole?: boolean;
  /** An empty field means `null`. */
  optional?: boolean;
  hint?: string;
  onChange: (value: number | null) => void;
}

/** A figure typed with or without its unit. What cannot be read stays in the field with a word about why. */
export function NumberField({ label, value, unit, min = 0, max = 1e6, whole, optional, hint, onChange }: NumberFieldProps) {
  const shown = value === null ? "" : fieldText(value);
  const [text, setText] = useState(shown);
  const [fault, setFault] = useState<string>();
  const typing = useRef(false);

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
    const units = Object.keys(unit.scale).filter(Boolean).join(", ");
    if (parsed === undefined) setFault(`Give a number${units ? `, with ${units} if you like` : ""}`);
    else if (whole && !Number.isInteger(parsed)) setFault("Give a whole number");
    else if (parsed < min) setFault(`Give at least ${fieldText(min)} ${unit.name}`);
    else if (parsed > max) setFault(`Give at most ${fieldText(max)} ${unit.name}`);
    else {
      setFault(undefined);
      onChange(parsed);
    }
  };

  return (
    <Field.Root invalid={fault !== undefined} gap="1">
      <Field.Label fontWeight="normal" color="fg.muted" fontSize="xs">
        {label}
      </Field.Label>
      <InputGroup endElement={unit.name ? <Box color="fg.muted">{unit.name}</Box> : undefined}>
        <Input
          size="sm"
          inputMode="decimal"
          autoComplete="off"
          value={text}
          onFocus={(event) => {
            typing.current = true;
            event.target.select();
          }}
          onBlur={() => {
            typing.current = false;
            if (fault === undefined) setText(shown);
          }}
          onChange={(event) => read(event.target.value)}
        />
      </InputGroup>
      {hint && fault === undefined && <Field.HelperText>{hint}</Field.HelperText>}
      <Field.ErrorText>{fault}</Field.ErrorText>
    </Field.Root>
  );
}

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}

/** One of a few words. */
export function Choice<T extends string>({ label, value, options, onChange }: ChoiceProps<T>) {
  const id = useId();
  return (
    <Field.Root gap="1" ids={{ control: id }}>
      <Field.Label fontWeight="normal" color="fg.muted" fontSize="xs">
        {label}
      </Field.Label>
      <NativeSelect.Root size="sm">
        <NativeSelect.Field id={id} value={value} onChange={(event) => onChange(event.target.value as T)} bg="bg.panel">
          {options.map(([word, name]) => (
            <option key={word} value={word}>
              {name}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Field.Root>
  );
}

/** Fields side by side where there is room. */
export function FieldGrid({ children }: { children: ReactNode }) {
  return (
    <Box display="grid" gridTemplateColumns="repeat(auto-fill, minmax(8.2rem, 1fr))" gap="3" alignItems="start">
      {children}
    </Box>
  );
}
