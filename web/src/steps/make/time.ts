import type { JournalEvent } from "../../api/client";

/** What is known of a step. */
export interface Tick {
  step: string;
  state: "done" | "undone" | "wrong";
  at: string;
}

const MINUTE = 60_000;
const two = (value: number) => String(value).padStart(2, "0");

/** A day by the clock on the wall, as in `2026-11-27`. */
export const dayName = (date: Date) => `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;

/** Midnight of a day, by the clock on the wall. */
const midnight = (day: string) => {
  const [year, month, date] = day.split("-").map(Number);
  return new Date(year!, month! - 1, date!);
};

/** Minutes from the midnight of a day. */
export const minutesSince = (day: string, moment: Date) => (moment.getTime() - midnight(day).getTime()) / MINUTE;

/** The moment of so many minutes after the midnight of a day. */
export const momentOf = (day: string, minutes: number) => new Date(midnight(day).getTime() + minutes * MINUTE);

/** The newest tick of each step. */
export function ticksOf(events: readonly JournalEvent[]): Map<string, Tick> {
  const ticks = new Map<string, Tick>();
  for (const event of events) {
    if (event.kind !== "tick") continue;
    // What another program wrote may be of any shape.
    const { step, state } = event.data as { step?: unknown; state?: unknown };
    if (typeof step !== "string" || (state !== "done" && state !== "undone" && state !== "wrong")) continue;
    const known = ticks.get(step);
    if (!known || Date.parse(known.at) <= Date.parse(event.at)) ticks.set(step, { step, state, at: event.at });
  }
  return ticks;
}

/** Steps that are done, and when, in minutes from the midnight of a day. */
export const doneOf = (ticks: ReadonlyMap<string, Tick>, day: string) =>
  [...ticks.values()].filter((tick) => tick.state === "done").map((tick) => ({ step: tick.step, at: minutesSince(day, new Date(tick.at)) }));

/** As in `Fri 27 Nov`. */
export const sayDay = (date: Date) => date.toLocaleDateString([], { weekday: "short", day: "numeric", month: "short" });

/** As in `18:30`. */
export const sayTime = (date: Date) => `${two(date.getHours())}:${two(date.getMinutes())}`;

/** How long, as a person says it. */
export function sayMinutes(minutes: number): string {
  if (minutes < 90) return `${Math.max(1, Math.round(minutes))} min`;
  if (minutes < 36 * 60) return `${Number((minutes / 60).toFixed(1))} h`;
  return `${Number((minutes / 1440).toFixed(1))} days`;
}
