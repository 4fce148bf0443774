import { Box, Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type BenchCheck, type Build, type CheckRead, type SourceState, answer, api } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { useJournal } from "../../journal/journal";
import { clock, inOwn, parseQuantity, say, unitOf } from "../../units";
import { SETTINGS, band, should } from "./words";

export type Reading = { check: string; value: number | null; at: string };

/** What every reading of a build should be, what was read last, and what writes a reading down. */
export function useReadings(id: number, build: Build, state: SourceState, wanted = true) {
  const asked = useQuery({
    queryKey: ["expect", numberOf(build), state],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/expect", { body: { document: build, state: state === "charging" ? null : state }, signal })),
    enabled: wanted,
    staleTime: Infinity,
    gcTime: 20_000,
    placeholderData: (before) => before,
  });
  const journal = useJournal(id, "reading", wanted);
  const last = new Map<string, Reading>();
  const reads: CheckRead[] = [];
  for (const event of journal.events) {
    // What another program wrote may be of any shape.
    const { check, value, state } = event.data as { check?: unknown; value?: unknown; state?: SourceState | null };
    if (typeof check !== "string" || (typeof value !== "number" && value !== null)) continue;
    if (value !== null && state) reads.push({ check, state, value });
    last.set(check, { check, value, at: event.at });
  }
  const onRead = (check: BenchCheck, value: number | null) =>
    journal.write({
      check: check.id,
      probes: check.probes,
      quantity: check.setting,
      value,
      unit: check.unit,
      verdict: judged(check, value).word.toLowerCase(),
      scene: check.scene ?? null,
      state: check.state ?? null,
    });
  return { asked, last, reads, onRead };
}

type Judged = { tone: "good" | "fix" | "stop"; sign: string; word: string; why: string };

/** What a reading means. */
export function judged(check: BenchCheck, value: number | null): Judged {
  const fine: Judged = { tone: "good", sign: "✓", word: "Fine", why: "" };
  const { low, high } = check;
  // Open reads above everything.
  const read = value ?? Infinity;
  const below = low !== null && low !== undefined && read < low;
  const above = high !== null && high !== undefined && read > high;
  if (!below && !above) return fine;
  const why = below ? check.below : check.above;
  return check.danger ? { tone: "stop", sign: "✕", word: "Stop", why } : { tone: "fix", sign: "!", word: "Look again", why };
}

interface RowProps {
  check: BenchCheck;
  build: Build;
  reading: Reading | undefined;
  isNext: boolean;
  /** For hands that are dirty, and a row that has the whole width for itself. */
  large?: boolean;
  onRead: (value: number | null) => void;
}

/** One check: what to do, what it should read, and room for what it reads. */
export function CheckRow({ check, build, reading, isNext, large, onRead }: RowProps) {
  const [text, setText] = useState("");
  const [fault, setFault] = useState<string | null>(null);
  const result = reading && judged(check, reading.value);
  const scene = build.scenes.find((known) => known.id === check.scene)?.name;
  const canBeOpen = check.setting === "ohms" || check.setting === "diode";
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const value = parseQuantity(text, unitOf(check.unit));
    if (value === undefined) return setFault(`Type what the meter shows, as in ${say({ value: check.expected ?? 2.5, unit: check.unit })}`);
    setFault(null);
    setText("");
    onRead(value);
  };
  return (
    <Box
      as="li"
      borderTopWidth="1px"
      py="2.5"
      pl="3"
      borderLeftWidth="3px"
      borderLeftColor={result ? `${result.tone}.solid` : isNext ? "lantern.solid" : "transparent"}
    >
      <Box display="grid" gridTemplateColumns={{ base: "1fr", lg: "1fr 15rem" }} gap="3" alignItems="start">
        <Box minW="0">
          <Box fontWeight="semibold">{inOwn(check.title)}</Box>
          <Box color="fg.muted" fontSize="sm">
            {check.how}
          </Box>
          <Box fontSize="sm" mt="1">
            {SETTINGS[check.setting]} · <b>{check.places.join(" and ")}</b>
            {scene && ` · ${scene}`}
          </Box>
          <Box fontSize="sm">
            should read <b>{should(check)}</b>
            <Box as="span" color="fg.muted">
              {" "}
              (fine: {band(check)})
            </Box>
          </Box>
        </Box>
        <Box>
          <form onSubmit={submit}>
            <Box display="flex" gap="2">
              <input
                className={large ? "control large" : "control"}
                inputMode="decimal"
                aria-label={`Reading: ${check.title}`}
                placeholder={check.unit === "ohm" ? "Ω" : check.unit}
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
              <Button type="submit" size="sm" minH={large ? "11" : "9"} variant="outline" disabled={text.trim() === ""}>
                Read
              </Button>
              {canBeOpen && (
                <Button size="sm" minH={large ? "11" : "9"} variant="outline" onClick={() => onRead(null)}>
                  Open
                </Button>
              )}
            </Box>
          </form>
          {fault && (
            <Box role="alert" color="stop.fg" fontSize="xs">
              {fault}
            </Box>
          )}
          {result && reading && (
            <Box role="status" mt="1.5" color={`${result.tone}.fg`} fontSize="sm">
              <b>
                {result.sign} {result.word}: {reading.value === null ? "open" : say({ value: reading.value, unit: check.unit })}
              </b>
              <Box as="span" color="fg.muted">
                {" "}
                {clock(reading.at)}
              </Box>
              {result.why && <Box color="fg">{result.why}</Box>}
            </Box>
          )}
        </Box>
      </Box>
    </Box>
  );
}
