/** What the drain shows in the middle. */
export const VIEWS = ["use", "time", "what-if", "audit", "charging", "vehicle"] as const;
export type View = (typeof VIEWS)[number];
export const VIEW_NAMES: Record<View, string> = {
  use: "Use",
  time: "Over time",
  "what-if": "What if",
  audit: "Replace old bulbs",
  charging: "Charging",
  vehicle: "Vehicle",
};
