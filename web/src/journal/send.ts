import { type JournalEvent, problemOf } from "../api/client";

/** Answers after which an event will not be taken however often it is sent: no such build, another event of its id, no event. */
const NEVER = [404, 409, 422];

const never = (error: unknown) => NEVER.includes(problemOf(error).status);

/**
 * Sends events that wait. A journal takes all of a batch or nothing: where it takes nothing each goes by itself, so that one
 * that it will never take is let go alone. Throws what stands in the way for now; whatever was sent may be sent again.
 */
export async function sendEvents(events: readonly JournalEvent[], post: (events: readonly JournalEvent[]) => Promise<unknown>): Promise<void> {
  if (events.length === 0) return;
  try {
    await post(events);
  } catch (error) {
    if (!never(error)) throw error;
    if (events.length > 1) for (const event of events) await sendEvents([event], post);
  }
}
