interface Props {
  label: string;
  /** What stands for none. */
  none: string;
  value: string;
  /** Faults by the part that has them. */
  groups: readonly (readonly [string, readonly { fault: string; words: string }[]])[];
  onChange: (fault: string) => void;
}

/** Every fault that a build can have, by the part that has it. */
export function FaultList({ label, none, value, groups, onChange }: Props) {
  return (
    <label>
      <span className="field-label">{label}</span>
      <select className="control" value={value} onChange={(event) => onChange(event.target.value)}>
        <option value="">{none}</option>
        {groups.map(([owner, own]) => (
          <optgroup key={owner} label={owner}>
            {own.map((one) => (
              <option key={one.fault} value={one.fault}>
                {one.words}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
    </label>
  );
}
