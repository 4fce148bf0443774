import { Box } from "@chakra-ui/react";
import type { Part } from "../api/client";
import { type PartField, fieldsOfPart, valueIn, withValue } from "../document/partFields";
import { Choice, GaugeField, NumberField, TextField } from "../job/fields";
import { millimetres, unitOf } from "../units";

/** Every figure of a part, as the core's table has them. */
export function PartEditor({ part, onChange }: { part: Part; onChange: (part: Part) => void }) {
  return (
    <Box className="field-grid" gridTemplateColumns="repeat(auto-fill, minmax(10.5rem, 1fr))">
      {fieldsOfPart(part).map((field) => (
        <Box key={`${field.path.join("/")} ${field.index ?? ""}`} minW="0">
          <One field={field} part={part} onChange={onChange} />
        </Box>
      ))}
    </Box>
  );
}

function One({ field, part, onChange }: { field: PartField; part: Part; onChange: (part: Part) => void }) {
  const { path, spec, label, words, index } = field;
  const value = valueIn(part, path);
  const put = (next: unknown) => onChange(withValue(part, path, next));
  if (field.gauge) return <GaugeField label={label} value={value as { awg: number }} onChange={put} />;
  if (words) return <Choice label={label} value={String(value ?? words[0]?.[0] ?? "")} options={words} onChange={put} />;
  if (spec.shape === "flag" && spec.optional)
    return (
      <Choice
        label={label}
        value={value === undefined || value === null ? "" : value ? "yes" : "no"}
        options={[
          ["", "usual for it"],
          ["yes", "yes"],
          ["no", "no"],
        ]}
        onChange={(word) => put(word === "" ? null : word === "yes")}
      />
    );
  if (spec.shape === "flag")
    return (
      <label className="tick">
        <input type="checkbox" checked={value === true} onChange={(event) => put(event.target.checked)} />
        {label}
      </label>
    );
  if (spec.shape === "text") return <TextField label={label} value={String(value ?? "")} most={spec.most} onChange={put} />;
  const unit = spec.unit === "mm" ? millimetres() : unitOf(spec.shown ?? spec.unit ?? "");
  const limits = { min: spec.min, max: spec.max, open: spec.open, whole: spec.shape === "whole" };
  if (index !== undefined) {
    const three = Array.isArray(value) ? (value as number[]) : null;
    // Three go together: one that is typed begins the others.
    const putOne = (next: number | null) => put(next === null ? null : [0, 1, 2].map((at) => (at === index ? next : (three?.[at] ?? 0))));
    return <NumberField label={label} value={three?.[index] ?? null} unit={unit} {...limits} optional={spec.optional} onChange={putOne} />;
  }
  return (
    <NumberField
      label={label}
      value={typeof value === "number" ? value : null}
      unit={unit}
      {...limits}
      optional={spec.optional}
      hint={
        spec.nothing
          ? `If left blank: ${spec.nothing}`
          : spec.optional
            ? path.length > 1
              ? "If left blank: the usual"
              : "If left blank: not known"
            : undefined
      }
      onChange={put}
    />
  );
}
