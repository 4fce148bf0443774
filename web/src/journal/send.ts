import { type JournalEvent, problemOf } from "../api/client";

/** Answers after which an event will not be taken however often it is sent: no such build, another event of its id, no event. */
const NEVER = [404, 409, 422];

/**
 * Sends events that wait. A journal takes all of a batch or nothing: where it takes nothing, half of them go by themselves and
 * so on, so that one that it will never take is let go alone. Throws what stands in the way for now; whatever was sent may be sent again.
 */
export async function sendEvents(events: readonly JournalEvent[], post: (events: readonly JournalEvent[]) => Promise<unknown>): Promise<void> {
  if (events.length === 0) return;
  try {
    await post(events);
  } catch (error) {
    const { status } = problemOf(error);
    if (!NEVER.includes(status)) throw error;
    // A build that is gone takes none of them.
    if (status === 404 || events.length === 1) return;
    const half = Math.ceil(events.length / 2);
    await sendEvents(events.slice(0, half), post);
    await sendEvents(events.slice(half), post);
  }
}
