import { useEffect, useMemo, useRef, useState } from "react";
import { type Problem, problemOf } from "./client";
import { type Answer, type Often, type Question, ask, askNow } from "./ask";

/** An answer that follows a hand. */
export interface Followed<T> {
  /** While a newer one is on its way, the one before. */
  data: T | undefined;
  problem: Problem | null;
  /** It is the answer to what is asked now. */
  fresh: boolean;
}

interface Come<N extends Often> {
  to: Question<N>;
  data?: Answer<N>;
  problem?: Problem;
}

/**
 * A question that a slider asks anew with every step: answered at once where that is short, else one after another, the
 * newest next, each drawn as it comes. `body` is to stay the same object while nothing changes; `null` asks nothing.
 */
export function useFollowed<N extends Often>(name: N, body: Question<N> | null): Followed<Answer<N>> {
  const [come, setCome] = useState<Come<N> | null>(null);
  const newest = useRef(body);
  const busy = useRef(false);
  const now = useMemo((): Come<N> | null => {
    if (!body) return null;
    try {
      const data = askNow(name, body);
      return data && { to: body, data };
    } catch (error) {
      return { to: body, problem: problemOf(error) };
    }
  }, [name, body]);
  const last = useRef(now);
  const seen = useRef(come);
  if (now) last.current = now;
  // One that comes after a newer question was answered at once is of no use any more.
  else if (come !== seen.current) last.current = come;
  seen.current = come;

  useEffect(() => {
    newest.current = body;
    if (!body || now || busy.current) return;
    const follow = async () => {
      busy.current = true;
      for (let to = newest.current; to; to = newest.current === to ? null : newest.current)
        try {
          setCome({ to, data: await ask(name, to) });
        } catch (error) {
          setCome({ to, problem: problemOf(error) });
        }
      busy.current = false;
    };
    void follow();
  }, [name, body, now]);

  const shown = last.current;
  return { data: shown?.data, problem: shown?.problem ?? null, fresh: shown !== null && shown.to === body };
}
