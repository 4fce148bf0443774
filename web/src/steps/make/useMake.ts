import { useQuery } from "@tanstack/react-query";
import { type Build, type JournalEvent, type Made, answer, api } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { useJournal } from "../../journal/journal";
import { type Tick, dayName, doneOf, minutesSince, ticksOf } from "./time";

/** The steps of a build and when they are done, from what is ticked. */
export function usePlan(build: Build, ticks: ReadonlyMap<string, Tick>) {
  const day = dayName(new Date());
  // A plan is made from the hour on; that it is asked anew each minute would help nobody.
  const now = Math.floor(minutesSince(day, new Date()) / 30) * 30;
  const done = doneOf(ticks, day);
  return useQuery({
    queryKey: ["make", numberOf(build), day, now, done],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/make", { body: { document: build, day, now, done }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
}

/** What leads through the making: steps, ticks, and what writes one. */
export interface Making {
  made: Made | undefined;
  error: unknown;
  ticks: Map<string, Tick>;
  tick: (step: string, state: Tick["state"]) => void;
  /** Ticks that wait for the workshop. */
  held: number;
}

/** The same with the ticks of a build's journal. */
export function useMake(id: number, build: Build): Making {
  const journal = useJournal(id, "tick");
  const ticks = ticksOf(journal.events as readonly JournalEvent[]);
  const asked = usePlan(build, ticks);
  return { made: asked.data, error: asked.error, ticks, tick: (step, state) => journal.write({ step, state }), held: journal.held };
}

export type Step = Made["steps"][number];
export type Plan = Made["plan"];
