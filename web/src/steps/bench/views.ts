/** What lies on the bench. */
export const BENCH_VIEWS = ["meter", "pinch", "list", "practice"] as const;
export type BenchView = (typeof BENCH_VIEWS)[number];
export const BENCH_NAMES: Record<BenchView, string> = { meter: "Meter", pinch: "Pinch a wire", list: "Check list", practice: "Practice" };
