import { Box } from "@chakra-ui/react";
import type { Made } from "../../api/client";
import { momentOf, sayDay, sayMinutes, sayTime } from "./time";

const DAY = 1440;
const LONG = 60;

/** The evenings as bars, a row a day, with what cures beneath: calm, and to scale. */
export function Timeline({ made, isDone }: { made: Made; isDone: (id: string) => boolean }) {
  const { plan, steps } = made;
  const stretches = plan.placed.flatMap((placed) => placed.at.map((at) => ({ ...at, step: placed.step, person: placed.person })));
  if (stretches.length === 0) return null;
  const days = [...new Set(stretches.map((one) => Math.floor(one.from / DAY)))].sort((a, b) => a - b);
  // All days share one scale, from the earliest start to the latest end.
  const first = Math.floor(Math.min(...stretches.map((one) => one.from % DAY)) / 60) * 60;
  const last = Math.ceil(Math.max(...stretches.map((one) => one.to - Math.floor(one.from / DAY) * DAY)) / 60) * 60;
  const wide = (minutes: number) => (100 * minutes) / (last - first);
  const stepOf = new Map(steps.map((step) => [step.id, step]));
  const hours = Array.from({ length: (last - first) / 60 + 1 }, (_, index) => first + 60 * index).filter((hour) =>
    last - first <= 480 ? true : (hour / 60) % 2 === 0,
  );
  return (
    <Box as="figure" aria-label="The evenings" className="card">
      <Box display="grid" gridTemplateColumns="5.5rem 1fr" gap="2" fontSize="xs" color="fg.muted">
        <span />
        <Box position="relative" h="4">
          {hours.map((hour) => (
            <Box key={hour} position="absolute" style={{ left: `${wide(hour - first)}%` }} transform="translateX(-50%)">
              {Math.floor(hour / 60) % 24}
            </Box>
          ))}
        </Box>
        {days.map((day) => {
          const own = stretches.filter((one) => Math.floor(one.from / DAY) === day);
          const cures = plan.placed.flatMap((placed) => {
            const step = stepOf.get(placed.step);
            const end = placed.at.at(-1)!.to;
            return step?.wait && step.wait.minutes >= LONG && Math.floor(end / DAY) === day
              ? [{ what: step.wait.what, about: step.about, until: placed.ready }]
              : [];
          });
          return (
            <Box key={day} display="contents">
              <Box color="fg" py="1">
                {sayDay(momentOf(plan.begins, day * DAY))}
              </Box>
              <Box py="1">
                <Box position="relative" h="6" bg="bg.muted" borderRadius="sm" overflow="hidden">
                  {own.map((one) => {
                    const step = stepOf.get(one.step);
                    const from = one.from - day * DAY;
                    return (
                      <Box
                        key={`${one.step} ${one.from}`}
                        title={`${sayTime(momentOf(plan.begins, one.from))} ${step?.title}`}
                        position="absolute"
                        h={plan.people > 1 ? "50%" : "full"}
                        top={plan.people > 1 && one.person % 2 === 1 ? "50%" : "0"}
                        bg={isDone(one.step) ? "good.solid" : "lantern.solid"}
                        borderRightWidth="1px"
                        borderColor="bg"
                        style={{ left: `${wide(from - first)}%`, width: `${wide(one.to - one.from)}%` }}
                      />
                    );
                  })}
                </Box>
                {cures.length > 0 && (
                  <Box color="fg.muted">
                    then {[...new Set(cures.map((one) => one.what))].join(", ")}, until{" "}
                    {sayDay(momentOf(plan.begins, Math.max(...cures.map((one) => one.until))))}{" "}
                    {sayTime(momentOf(plan.begins, Math.max(...cures.map((one) => one.until))))}
                  </Box>
                )}
              </Box>
            </Box>
          );
        })}
      </Box>
      <Box as="figcaption" color="fg.muted" fontSize="xs" mt="2">
        {sayMinutes(plan.work)} of work on {days.length === 1 ? "one day" : `${days.length} days`}
        {plan.usual ? ", laid over a usual weekend" : ""}
        {plan.people > 1 ? `, ${plan.people} people` : ""}.
      </Box>
    </Box>
  );
}
