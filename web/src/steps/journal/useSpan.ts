import { useMemo, useState } from "react";
import type { JournalView } from "../../api/client";
import { type Span, within } from "./TimeChart";

/** A quarter of a year, s. */
export const QUARTER = 91 * 86_400;

/** All the time that a journal has, and the part of it that is looked at: its last `begins` seconds at first. */
export function useSpan(view: JournalView, begins = Infinity) {
  const whole = useMemo<Span>(() => {
    const to = Math.max(Date.now() / 1000, view.events[view.events.length - 1]?.s ?? 0);
    const from = Math.min(view.events[0]?.s ?? to - QUARTER, to - 7 * 86_400);
    return { from, to };
  }, [view.events]);
  const [span, setSpan] = useState<Span | null>(null);
  return { whole, span: within(span ?? { from: Math.max(whole.from, whole.to - begins), to: whole.to }, whole), setSpan };
}
