import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { type JournalEvent, answer, api } from "../api/client";
import { kept } from "../base/kept";
import { type DataOf, type EventKind, type EventOf, eventOf } from "./event";
import { sendPhotos } from "./photos";
import { sendEvents } from "./send";

/** How often events that wait are tried again, ms. */
const AGAIN = 4000;

const waitingKey = (build: number) => `orthavis.journal.${build}`;

function waiting(build: number): JournalEvent[] {
  try {
    return JSON.parse(kept.get(waitingKey(build)) ?? "[]") as JournalEvent[];
  } catch {
    return [];
  }
}

const keep = (build: number, events: JournalEvent[]) =>
  events.length > 0 ? kept.set(waitingKey(build), JSON.stringify(events)) : kept.drop(waitingKey(build));

/**
 * Events in a build's journal, of one kind or all, and what writes one. An event is in the browser before it is sent, so
 * that a workshop that is away, or a page that is closed, loses none; sent twice it is kept once.
 */
export function useJournal<K extends EventKind = EventKind>(build: number, kind?: K, wanted = true) {
  const client = useQueryClient();
  const key = ["journal", build, kind ?? "all"];
  const asked = useQuery({
    queryKey: key,
    queryFn: async () => {
      const all: EventOf<K>[] = [];
      for (let after: string | undefined; ;) {
        const page = await answer(api.GET("/api/v1/builds/{id}/journal", { params: { path: { id: build }, query: { kind, after, limit: 2000 } } }));
        all.push(...(page.events as EventOf<K>[]));
        if (!page.next) return all;
        after = page.next;
      }
    },
    staleTime: 10_000,
    enabled: wanted,
  });
  // How many wait since the last try to send them failed.
  const [held, setHeld] = useState(0);
  const flush = useCallback(async () => {
    const events = waiting(build);
    try {
      await sendEvents(events, (some) => answer(api.POST("/api/v1/builds/{id}/journal", { params: { path: { id: build } }, body: { events: [...some] } })));
      await sendPhotos(build);
    } catch {
      // They wait for a server that is away, busy or does not let this device in.
      return setHeld(events.length);
    }
    setHeld(0);
    if (events.length === 0) return;
    const sent = new Set(events.map((event) => event.id));
    keep(
      build,
      waiting(build).filter((event) => !sent.has(event.id)),
    );
    await client.invalidateQueries({ queryKey: ["journal", build] });
  }, [build, client]);
  useEffect(() => {
    void flush();
    const timer = setInterval(() => void flush(), AGAIN);
    return () => clearInterval(timer);
  }, [flush]);
  const append = (event: JournalEvent) => {
    keep(build, [...waiting(build), event]);
    client.setQueryData(key, (known: EventOf<K>[] | undefined) => [...(known ?? []), event]);
    void flush();
  };
  const write = (data: DataOf<K>) => append(eventOf((kind ?? "note") as K, data));
  // What waits is there already, for who wrote it.
  const { data } = asked;
  const events = useMemo(() => {
    const sent = new Set(data?.map((event) => event.id));
    const held = waiting(build).filter((event): event is EventOf<K> => !kind || event.kind === kind);
    return [...(data ?? []), ...held.filter((event) => !sent.has(event.id))];
    // What waits changes only with what is sent or written, which changes the data too.
  }, [data, build, kind]);
  return { events, write, append, held, ready: data !== undefined || asked.isError, error: asked.error };
}
