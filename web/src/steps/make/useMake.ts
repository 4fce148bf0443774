import { useQuery } from "@tanstack/react-query";
import { type Build, type JournalEvent, type Made, answer, api } from "../../api/client";
import { numberOf } from "../../build/useSolved";
import { useJournal } from "../../journal/journal";
import { type Tick, dayName, minutesSince, ticksOf } from "./time";

/** The steps of a build, when they are done, and what is ticked. */
export function useMake(id: number, build: Build) {
  const journal = useJournal(id, "tick");
  const ticks = ticksOf(journal.events as readonly JournalEvent[]);
  const day = dayName(new Date());
  // A plan is made from the hour on; that it is asked anew each minute would help nobody.
  const now = Math.floor(minutesSince(day, new Date()) / 30) * 30;
  const done = [...ticks.values()].filter((tick) => tick.state === "done").map((tick) => ({ step: tick.step, at: minutesSince(day, new Date(tick.at)) }));
  const asked = useQuery({
    queryKey: ["make", numberOf(build), day, now, done],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/make", { body: { document: build, day, now, done }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const tick = (step: string, state: Tick["state"], note?: string) => journal.write({ step, state, ...(note ? { note } : {}) });
  return { made: asked.data, error: asked.error, ticks, tick, held: journal.held };
}

export type Step = Made["steps"][number];
export type Plan = Made["plan"];
