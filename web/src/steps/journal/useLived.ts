import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { type Build, type JournalEvent, answer, api } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { here } from "../../journal/event";
import { useJournal } from "../../journal/journal";

/** Kinds of which the journal says something back; ticks of the making and drills are many, and it says nothing of them. */
const asks = (event: JournalEvent) => event.kind !== "drill" && (event.kind !== "tick" || String(event.data.step).startsWith("season:"));

/** Events of a build and what the core says of them. */
export function useLived(id: number, build: Build, shown: boolean) {
  const journal = useJournal(id, undefined, shown);
  const events = useMemo(() => journal.events.filter(asks), [journal.events]);
  // By the minute, to its end: a day's rest changes what is said, a second's does not, and what was just written is past.
  const clock = here();
  const now = `${clock.slice(0, 17)}59${clock.slice(19)}`;
  const last = events[events.length - 1]?.id ?? "";
  const view = useQuery({
    queryKey: ["journal-view", id, numberOf(build), events.length, last, now],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/journal", { body: { document: build, events, now }, signal })),
    enabled: shown && journal.ready,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  return { journal, events, now, view };
}

export type Lived = ReturnType<typeof useLived>;
