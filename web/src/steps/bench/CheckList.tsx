import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type BenchCheck, type Build, type CheckRead, type SourceState, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { EffectView } from "../../job/Effect";
import { useJournal } from "../../journal/journal";
import { ExpectedSheet } from "./ExpectedSheet";
import { band, SETTINGS, should, STAGES } from "./words";
import { clock, parseQuantity, say, unitOf, inOwn } from "../../units";

type Reading = { check: string; value: number | null; at: string };

/** The order in which a careful person tries a build, with what every reading should be. */
export function CheckList({ id, build, state, onTake }: { id: number; build: Build; state: SourceState; onTake: (document: Build) => void }) {
  const asked = useQuery({
    queryKey: ["expect", numberOf(build), state],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/expect", { body: { document: build, state: state === "charging" ? null : state }, signal })),
    staleTime: Infinity,
    gcTime: 20_000,
    placeholderData: (before) => before,
  });
  const journal = useJournal(id, "reading");
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return <p className="quiet">Working out what to expect …</p>;
  const last = new Map<string, Reading>();
  const reads: CheckRead[] = [];
  for (const event of journal.events) {
    // What another program wrote may be of any shape.
    const { check, value, state } = event.data as { check?: unknown; value?: unknown; state?: SourceState | null };
    if (typeof check !== "string" || (typeof value !== "number" && value !== null)) continue;
    if (value !== null && state) reads.push({ check, state, value });
    last.set(check, { check, value, at: event.at });
  }
  const done = asked.data.filter((check) => last.has(check.id)).length;
  const next = asked.data.find((check) => !last.has(check.id));
  const stages = (Object.keys(STAGES) as BenchCheck["step"][]).map((stage) => [stage, asked.data.filter((check) => check.step === stage)] as const);
  return (
    <>
      <ExpectedSheet build={build} state={state} checks={asked.data} />
      <Box display="flex" alignItems="baseline" gap="3" mb="1">
        <Box as="h2" fontSize="lg" fontWeight="semibold">
          {done} of {asked.data.length} checks done
        </Box>
        <Button size="xs" minH="8" variant="outline" ml="auto" onClick={() => window.print()}>
          Print the list
        </Button>
      </Box>
      {stages.map(
        ([stage, checks]) =>
          checks.length > 0 && (
            <Box as="section" key={stage} aria-label={STAGES[stage]} mb="2">
              <Box as="h3" color="lantern.fg" fontWeight="semibold" mb="1">
                {STAGES[stage]}
              </Box>
              <Box as="ol" listStyleType="none">
                {checks.map((check) => (
                  <CheckRow
                    key={check.id}
                    check={check}
                    build={build}
                    reading={last.get(check.id)}
                    isNext={check === next}
                    onRead={(value) =>
                      journal.write({
                        check: check.id,
                        probes: check.probes,
                        quantity: check.setting,
                        value,
                        unit: check.unit,
                        verdict: judged(check, value).word.toLowerCase(),
                        scene: check.scene ?? null,
                        state: check.state ?? null,
                      })
                    }
                  />
                ))}
              </Box>
            </Box>
          ),
      )}
      <Learned build={build} reads={reads} onTake={onTake} />
      <p className="quiet">This is advice, not a certificate. Disconnect the battery before you touch a wire.</p>
    </>
  );
}

type Judged = { tone: "good" | "fix" | "stop"; sign: string; word: string; why: string };

/** What a reading means. */
function judged(check: BenchCheck, value: number | null): Judged {
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
  onRead: (value: number | null) => void;
}

function CheckRow({ check, build, reading, isNext, onRead }: RowProps) {
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
                className="control"
                inputMode="decimal"
                aria-label={`Reading: ${check.title}`}
                placeholder={check.unit === "ohm" ? "Ω" : check.unit}
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
              <Button type="submit" size="sm" minH="9" variant="outline" disabled={text.trim() === ""}>
                Read
              </Button>
              {canBeOpen && (
                <Button size="sm" minH="9" variant="outline" onClick={() => onRead(null)}>
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

/** Readings that a fit wants at least. */
const LEAST = 3;

/** What all readings together say of the build's uncertain figures, shown before it is taken over. */
function Learned({ build, reads, onTake }: { build: Build; reads: CheckRead[]; onTake: (document: Build) => void }) {
  const fit = useMutation({
    mutationFn: async () => {
      const found = await answer(api.POST("/api/v1/correct", { body: { document: build, read: reads } }));
      const applied = found.figures.length > 0 ? await answer(api.POST("/api/v1/apply", { body: { document: build, changes: found.changes as never } })) : null;
      return { found, applied, build };
    },
  });
  const shown = fit.data?.build === build ? fit.data : null;
  const known = new Set(reads.map((read) => read.check)).size;
  return (
    <Box as="section" aria-label="What the readings say" className="card no-print" mt="3">
      <Box as="h3" fontWeight="semibold" mb="1">
        What the readings say of the build
      </Box>
      {known < LEAST ? (
        <Box color="fg.muted">
          With {LEAST} readings under power or more, the battery’s resistance, what modules are set to and the LEDs’ forward voltage can be told from them. So
          far: {known}.
        </Box>
      ) : (
        <Button size="sm" minH="9" variant="outline" loading={fit.isPending} onClick={() => fit.mutate()}>
          Hold the build against {reads.length} readings
        </Button>
      )}
      {fit.error && (
        <Box role="alert" color="stop.fg" mt="2">
          {problemOf(fit.error).detail}
        </Box>
      )}
      {shown && shown.found.figures.length === 0 && (
        <Box role="status" color="good.fg" mt="2">
          ✓ The build is as it says, as far as these readings tell.
        </Box>
      )}
      {shown?.applied && (
        <>
          <Box as="ul" listStyleType="none" my="2">
            {shown.found.figures.map((figure) => (
              <Box as="li" key={figure.at}>
                {figure.words}: {say({ value: figure.from, unit: figure.unit })} → <b>{say({ value: figure.to, unit: figure.unit })}</b>
                <Box as="span" color="fg.muted">
                  {" "}
                  (give or take {say({ value: figure.give, unit: figure.unit })})
                </Box>
              </Box>
            ))}
          </Box>
          <EffectView
            title="The build as it was read"
            effect={shown.applied.effect}
            onApply={() => onTake(shown.applied!.document)}
            onCancel={() => fit.reset()}
          />
        </>
      )}
    </Box>
  );
}
