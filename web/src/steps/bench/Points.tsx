import { Box } from "@chakra-ui/react";
import { useMemo } from "react";
import { capital } from "../../document/fields";

interface Props {
  label: string;
  value: string;
  points: readonly string[];
  /** Each in words. */
  words: Readonly<Record<string, string>>;
  onChange: (point: string) => void;
}

/** Points of the build, gathered by the part that they belong to: in words, each with its name behind it. */
export function Points({ label, value, points, words, onChange }: Props) {
  const groups = useMemo(() => {
    const all = new Map<string, string[]>();
    for (const point of points) {
      const owner = /^source[+-]$/.test(point) ? "source" : point.replace(/[:/@].*$/, "");
      all.set(owner, [...(all.get(owner) ?? []), point]);
    }
    return [...all];
  }, [points]);
  return (
    <label>
      <Box as="span" fontSize="xs" color="fg.muted">
        {label}
      </Box>
      <select className="control" value={value} onChange={(event) => onChange(event.target.value)}>
        {groups.map(([owner, own]) => (
          <optgroup key={owner} label={owner}>
            {own.map((point) => (
              <option key={point} value={point}>
                {words[point] ? `${capital(words[point])} (${point})` : point}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
    </label>
  );
}

/** Faults gathered by the part that they are about. */
export function byPart<T extends { fault: string }>(faults: readonly T[]): [string, T[]][] {
  const by = new Map<string, T[]>();
  for (const one of faults) {
    const owner = one.fault.split("@")[1]!.replace(/[:/=.@].*$/, "");
    by.set(owner, [...(by.get(owner) ?? []), one]);
  }
  return [...by];
}
