import type { Design } from "../../api/client";

/** Designs by what matters to someone: the shares that the core says of each measure, weighed and summed, the least first. */
export function order<D extends Pick<Design, "shares">>(designs: readonly D[], weights: readonly number[]): D[] {
  const sum = ({ shares }: D) => shares.reduce((total, share, at) => total + weights[at]! * share, 0);
  return [...designs].sort((a, b) => sum(a) - sum(b));
}
