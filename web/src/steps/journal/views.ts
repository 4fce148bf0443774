/** What the journal shows. */
export const JOURNAL_VIEWS = ["now", "charts", "battery", "upkeep", "entries"] as const;
export type JournalPart = (typeof JOURNAL_VIEWS)[number];
export const JOURNAL_NAMES: Record<JournalPart, string> = {
  now: "Now",
  charts: "Over time",
  battery: "Battery",
  upkeep: "Upkeep",
  entries: "Entries",
};
