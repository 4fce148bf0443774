import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { type BenchCheck, type Build, type CheckRead, type SourceState, answer, api, problemOf } from "../../api/client";
import { EffectView } from "../../job/Effect";
import { ExpectedSheet } from "./ExpectedSheet";
import { CheckRow, useReadings } from "./CheckRow";
import { STAGES } from "./words";
import { say } from "../../units";

/** The order in which a careful person tries a build, with what every reading should be. */
export function CheckList({ id, build, state, onTake }: { id: number; build: Build; state: SourceState; onTake: (document: Build) => void }) {
  const { asked, last, reads, onRead } = useReadings(id, build, state);
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return <p className="quiet">Working out what to expect …</p>;
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
                    onRead={(value) => onRead(check, value)}
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
          With {LEAST} readings under power or more, the battery’s resistance, what converters are set to and the LEDs’ forward voltage can be told from them.
          So far: {known}.
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
