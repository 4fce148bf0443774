import { Box, chakra } from "@chakra-ui/react";
import { type ReactNode, memo, useCallback, useEffect, useId, useRef, useState } from "react";
import { type Unit, fieldText, parseQuantity } from "../units";

const Label = chakra("label", { base: { display: "block", color: "fg.muted", fontSize: "xs", mb: "1" } });

const CONTROL = {
  width: "100%",
  minHeight: "9",
  paddingInline: "2.5",
  background: "bg.panel",
  borderWidth: "1px",
  borderColor: "border.emphasized",
  borderRadius: "md",
} as const;

export const TextInput = chakra("input", { base: { ...CONTROL, _invalid: { borderColor: "stop.line" } } });
const Select = chakra("select", { base: { ...CONTROL, cursor: "pointer" } });

/** Always the newest handler behind a function that never changes, so that an untouched field is not drawn again. */
function useSteady<T>(handler: (value: T) => void): (value: T) => void {
  const newest = useRef(handler);
  newest.current = handler;
  return useCallback((value: T) => newest.current(value), []);
}

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
export function NumberField(props: NumberFieldProps) {
  return <Quantity {...props} onChange={useSteady(props.onChange)} />;
}

const Quantity = memo(function Quantity({ label, value, unit, min = 0, max = 1e6, whole, optional, hint, onChange }: NumberFieldProps) {
  const id = useId();
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

  const note = fault ?? hint;
  return (
    <Box>
      <Label htmlFor={id}>{label}</Label>
      <Box position="relative">
        <TextInput
          id={id}
          inputMode="decimal"
          autoComplete="off"
          paddingRight={unit.name ? "9" : undefined}
          value={text}
          aria-invalid={fault !== undefined || undefined}
          aria-describedby={note ? `${id}-note` : undefined}
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
        {unit.name && (
          <Box aria-hidden position="absolute" right="2.5" top="0" bottom="0" display="flex" alignItems="center" color="fg.muted" pointerEvents="none">
            {unit.name}
          </Box>
        )}
      </Box>
      {note && (
        <Box id={`${id}-note`} mt="1" fontSize="xs" color={fault ? "stop.fg" : "fg.muted"} aria-live={fault ? "polite" : undefined}>
          {note}
        </Box>
      )}
    </Box>
  );
});

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
    <Box>
      <Label htmlFor={id}>{label}</Label>
      <Select id={id} value={value} onChange={(event) => onChange(event.target.value as T)}>
        {options.map(([word, name]) => (
          <option key={word} value={word}>
            {name}
          </option>
        ))}
      </Select>
    </Box>
  );
}

/** Words, with suggestions where there are some. */
export function TextField({
  label,
  value,
  suggestions,
  placeholder,
  onChange,
}: {
  label: string;
  value: string;
  suggestions?: string[];
  placeholder?: string;
  onChange: (value: string) => void;
}) {
  const id = useId();
  return (
    <Box>
      <Label htmlFor={id}>{label}</Label>
      <TextInput
        id={id}
        list={suggestions && `${id}-list`}
        maxLength={200}
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
    </Box>
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
