import type { JournalEvent } from "../api/client";

/** A UUID of version 7 (RFC 9562): time first, so that ids sort as they were made. */
function uuid7(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  const now = Date.now();
  for (let index = 0; index < 6; index++) bytes[index] = Math.floor(now / 256 ** (5 - index)) % 256;
  bytes[6] = (bytes[6]! & 0x0f) | 0x70;
  bytes[8] = (bytes[8]! & 0x3f) | 0x80;
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

/** This moment with the offset of the place, RFC 3339. */
export function here(): string {
  const now = new Date();
  const offset = -now.getTimezoneOffset();
  const two = (value: number) => String(Math.floor(Math.abs(value))).padStart(2, "0");
  const local = new Date(now.getTime() + offset * 60_000).toISOString().slice(0, 19);
  return `${local}${offset < 0 ? "-" : "+"}${two(offset / 60)}:${two(offset % 60)}`;
}

export type EventKind = JournalEvent["kind"];
/** An event of one kind; what it says. */
export type EventOf<K extends EventKind> = Extract<JournalEvent, { kind: K }>;
export type DataOf<K extends EventKind> = EventOf<K>["data"];

/** Something that happens now. */
export const eventOf = <K extends EventKind>(kind: K, data: DataOf<K>) => ({ id: uuid7(), at: here(), kind, data }) as EventOf<K>;

/** Something that was, as the core read it from a line, or that corrects another. */
export const eventAt = <K extends EventKind>(kind: K, at: string, data: DataOf<K>, replaces?: string) =>
  ({ id: uuid7(), at, kind, data, ...(replaces ? { replaces } : {}) }) as EventOf<K>;

/** Events as a file: one a line. */
export const linesOf = (events: readonly JournalEvent[]): string => events.map((event) => `${JSON.stringify(event)}\n`).join("");
