import { Box } from "@chakra-ui/react";
import { problemOf, type Build, type SourceState } from "../../api/client";
import { CheckRow, useReadings } from "../bench/CheckRow";
import type { Step } from "./useMake";

interface Props {
  id: number;
  build: Build;
  state: SourceState;
  step: Step;
}

/** The readings that a step asks for, typed where they are asked for. */
export function StepReadings({ id, build, state, step }: Props) {
  const wanted = step.readings.length > 0;
  const { asked, last, onRead } = useReadings(id, build, state, wanted);
  if (!wanted) return null;
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg" mt="3">
        {problemOf(asked.error).detail}
      </Box>
    );
  const { about } = step;
  const checks = (asked.data ?? []).filter(
    (check) => step.readings.includes(check.step) && (!about || check.probes.some((probe) => probe.split(/[:@/.]/)[0] === about)),
  );
  if (checks.length === 0) return null;
  const done = checks.filter((check) => last.has(check.id)).length;
  const next = checks.find((check) => !last.has(check.id));
  return (
    <Box as="section" aria-label="Readings of this step" mt="4">
      <Box as="h3" fontWeight="semibold" mb="1">
        {done} of {checks.length} {checks.length === 1 ? "reading" : "readings"} taken
      </Box>
      <Box as="ol" listStyleType="none">
        {checks.map((check) => (
          <CheckRow
            key={check.id}
            large
            check={check}
            build={build}
            reading={last.get(check.id)}
            isNext={check === next}
            onRead={(value) => onRead(check, value)}
          />
        ))}
      </Box>
    </Box>
  );
}
