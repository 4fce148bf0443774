import { Box, Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type JournalEvent, type Practice as Known, type SourceState, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { useJournal } from "../../journal/journal";
import { Card } from "../../ui/StepHeading";
import { Drill, type Outcome } from "./Drill";
import { Lesson } from "./Lesson";
import type { Practising } from "./usePractice";

const DAY = 86_400_000;
const dayOf = (iso: string) => Math.floor(Date.parse(`${iso.slice(0, 10)}T00:00:00Z`) / DAY);

function today(): number {
  const now = new Date();
  return Math.floor((now.getTime() - now.getTimezoneOffset() * 60_000) / DAY);
}

/** Exercises of a journal that count. */
const doneOf = (events: readonly JournalEvent[]) =>
  events.flatMap((event) => {
    const { topic, good } = event.kind === "drill" ? event.data : {};
    return typeof topic === "string" && typeof good === "boolean" ? [{ topic, good, day: dayOf(event.at) }] : [];
  });

interface Props {
  id: number;
  build: Build;
  scene: string;
  state: SourceState;
  selected: string | null;
  practising: Practising;
}

/** Finding faults that are hidden, and short lessons; what went wrong comes back. */
export function Practice({ id, build, scene, state, selected, practising }: Props) {
  const [lesson, setLesson] = useState<string | null>(null);
  const journal = useJournal(id, "drill");
  const done = doneOf(journal.events);
  const now = today();
  const asked = useQuery({
    queryKey: ["practice", numberOf(build), done, now],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/practice", { body: { document: build, done, today: now }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const { drill, dealt, trouble, start } = practising;
  const begin = (level: number) => start({ document: build, scene, state, level, seed: Math.floor(Math.random() * 2 ** 31) });
  if (lesson)
    return (
      <Lesson
        key={lesson}
        id={lesson}
        onDone={(good) => journal.write({ topic: lesson, lesson, good })}
        onClose={() => setLesson(null)}
        next={nextAfter(asked.data, lesson)}
        onNext={setLesson}
      />
    );
  if (drill && trouble)
    return (
      <Card title="No such drill here">
        <Box role="alert" mb="3">
          {trouble}
        </Box>
        <Button size="sm" minH="9" variant="outline" onClick={() => start(null)}>
          Back to the list
        </Button>
      </Card>
    );
  if (drill && !dealt) return <p className="quiet">Hiding a fault …</p>;
  if (drill && dealt)
    return (
      <Drill
        key={`${drill.level} ${drill.seed}`}
        drill={drill}
        dealt={dealt}
        selected={selected}
        onDone={(outcome: Outcome) => journal.write({ topic: `level-${drill.level}`, level: drill.level, ...outcome })}
        onAgain={() => begin(drill.level)}
        onClose={() => start(null)}
      />
    );
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return <p className="quiet">Looking what can go wrong here …</p>;
  const { levels, lessons, due } = asked.data;
  const comesBack = (topic: string) => due.includes(topic);
  const lit = build.scenes.find((one) => one.id === scene)?.lights ?? {};
  const nothingLit = Object.values(lit).every((light) => light.level === 0);
  return (
    <>
      <Box color="fg.muted" mb="3">
        A fault is hidden in this build, on the screen only. Find it with the meter, in as few seconds of work as you can.
      </Box>
      {due.length > 0 && (
        <Box role="status" className="card on" mb="3">
          <b>{due.length === 1 ? "One thing comes" : `${due.length} things come`} back today</b>, so that they stay: look for <b>again</b> below.
        </Box>
      )}
      <Card title="Find the fault">
        {nothingLit && <Box color="fix.fg">! Nothing is lit in this scene. Choose another above.</Box>}
        <Box as="ol" listStyleType="none">
          {levels.map((level) => (
            <Box as="li" key={level.number} borderTopWidth="1px" py="2.5">
              <Box display="flex" gap="3" alignItems="center">
                <Box flex="1" minW="0">
                  <Box fontWeight="semibold">
                    {level.number}. {level.name}
                  </Box>
                  <Box color="fg.muted" fontSize="sm">
                    {level.about}
                  </Box>
                  <Standing standing={level.standing} due={comesBack(level.topic)} now={now} />
                </Box>
                <Button
                  size="sm"
                  minH="9"
                  variant="outline"
                  disabled={level.faults === 0 || nothingLit}
                  aria-label={`Start ${level.name}`}
                  onClick={() => begin(level.number)}
                >
                  {level.faults === 0 ? "None here" : "Start"}
                </Button>
              </Box>
            </Box>
          ))}
        </Box>
      </Card>
      <Card title="Short lessons">
        <Box as="ol" listStyleType="none">
          {lessons.map((one) => (
            <Box as="li" key={one.id} borderTopWidth="1px" py="2" display="flex" gap="3" alignItems="center">
              <Box flex="1" minW="0">
                <Box fontWeight="semibold">{one.title}</Box>
                <Standing standing={one.standing} due={comesBack(one.id)} now={now} />
              </Box>
              <Button size="sm" minH="9" variant="outline" aria-label={`Open ${one.title}`} onClick={() => setLesson(one.id)}>
                Open
              </Button>
            </Box>
          ))}
        </Box>
      </Card>
    </>
  );
}

const nextAfter = (known: Known | undefined, lesson: string) => {
  const at = known?.lessons.findIndex((one) => one.id === lesson) ?? -1;
  return at < 0 ? undefined : known?.lessons[at + 1];
};

function Standing({ standing, due, now }: { standing: Known["levels"][number]["standing"]; due: boolean; now: number }) {
  if (!standing) return null;
  const days = standing.due - now;
  return (
    <Box fontSize="xs" color={due ? "lantern.fg" : "fg.muted"} fontWeight={due ? "semibold" : undefined}>
      {due ? "again today" : days === 1 ? "comes back tomorrow" : `comes back in ${days} days`} · done{" "}
      {standing.times === 1 ? "once" : `${standing.times} times`}
    </Box>
  );
}
