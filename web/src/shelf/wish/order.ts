import type { Design } from "../../api/client";

/** What counts of a design, each so that less is better. */
const figures = ({ measures }: Design): number[] => [measures.cost, measures.mass_g, -(measures.hours ?? 1e6), measures.joints, -measures.headroom];

/** Designs by what matters: each measure as a share between the best and the worst of them, weighed and summed, the least first. */
export function order(designs: readonly Design[], weights: readonly number[]): Design[] {
  const all = designs.map(figures);
  const ends = weights.map((_, at) => [Math.min(...all.map((own) => own[at]!)), Math.max(...all.map((own) => own[at]!))] as const);
  const sum = (own: number[]) =>
    own.reduce((total, value, at) => {
      const [least, most] = ends[at]!;
      return total + (most > least ? (weights[at]! * (value - least)) / (most - least) : 0);
    }, 0);
  return designs
    .map((design, index) => ({ design, sum: sum(all[index]!), index }))
    .sort((a, b) => a.sum - b.sum || a.index - b.index)
    .map(({ design }) => design);
}
