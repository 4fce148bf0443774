import { useCallback, useMemo, useState } from "react";
import type { Build, Pinch, Problem, SourceState } from "../../api/client";
import { useFollowed } from "../../api/useFollowed";

/** A wire being pinched: which, where along it, and what that does. */
export interface Pinching {
  feeds: readonly string[];
  /** Empty where there is no wire yet. */
  feed: string;
  /** 0 at its supply to 1 at its end. */
  at: number;
  put: (feed: string, at: number) => void;
  /** At every state of the source. */
  all: readonly Pinch[];
  /** At the state that is shown. */
  here: Pinch | undefined;
  problem: Problem | null;
}

const NOTHING: readonly Pinch[] = [];

/** One pinch for the dial and for the river, asked for while it is `shown`. What is selected elsewhere is what is pinched. */
export function usePinch(build: Build, state: SourceState, selected: string | null, onSelect: (id: string | null) => void, shown: boolean): Pinching {
  const feeds = useMemo(
    () => [
      ...build.junctions.map((one) => one.id),
      ...build.converters.map((one) => one.id),
      ...build.lights.flatMap((one) => one.feeds.map((_, index) => (index ? `${one.id}#${index}` : one.id))),
    ],
    [build],
  );
  const [chosen, setChosen] = useState("");
  const [at, setAt] = useState(0.5);
  const feed = selected && feeds.includes(selected) ? selected : feeds.includes(chosen) ? chosen : (feeds[0] ?? "");
  const body = useMemo(() => (shown && feed ? { document: build, feed, at } : null), [shown, build, feed, at]);
  const asked = useFollowed("pinch", body);
  const put = useCallback(
    (feed: string, at: number) => {
      setChosen(feed);
      setAt(at);
      onSelect(null);
    },
    [onSelect],
  );
  const all = (shown && asked.data) || NOTHING;
  return { feeds, feed, at, put, all, here: all.find((one) => one.state === state) ?? all[0], problem: asked.problem };
}
