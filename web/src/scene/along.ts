export type Point = readonly [number, number];

/** The points of a way of straight lines, as `M0 0L9 9`. */
export function pointsOf(path: string): Point[] {
  const numbers = (path.match(/-?\d+(?:\.\d+)?/g) ?? []).map(Number);
  return Array.from({ length: Math.floor(numbers.length / 2) }, (_, at): Point => [numbers[2 * at]!, numbers[2 * at + 1]!]);
}

const far = (a: Point, b: Point) => Math.hypot(b[0] - a[0], b[1] - a[1]);
export const lengthOf = (way: readonly Point[]) => way.reduce((sum, point, at) => sum + (at > 0 ? far(way[at - 1]!, point) : 0), 0);

/** Where one is after so much of a way. */
export function pointAt(way: readonly Point[], after: number): Point {
  let left = after;
  for (let at = 1; at < way.length; at++) {
    const [a, b] = [way[at - 1]!, way[at]!];
    const step = far(a, b);
    if (left <= step && step > 0) return [a[0] + ((b[0] - a[0]) * left) / step, a[1] + ((b[1] - a[1]) * left) / step];
    left -= step;
  }
  return way.at(-1) ?? [0, 0];
}

/** The middle part of a way that is so long; all of it where it is shorter. */
export function middleOf(way: readonly Point[], length: number): Point[] {
  const all = lengthOf(way);
  if (length >= all) return [...way];
  const [from, to] = [(all - length) / 2, (all + length) / 2];
  let gone = 0;
  const inner = way.filter((point, at) => {
    if (at > 0) gone += far(way[at - 1]!, point);
    return gone > from && gone < to;
  });
  return [pointAt(way, from), ...inner, pointAt(way, to)];
}

/** Points spread evenly along a way, each in the middle of its share. */
export function spread(way: readonly Point[], count: number): Point[] {
  const share = lengthOf(way) / count;
  return Array.from({ length: count }, (_, at) => pointAt(way, share * (at + 0.5)));
}

/** Points close together along a way, so far apart at most. */
export const closeOn = (way: readonly Point[], apart = 8): Point[] => spread(way, Math.max(2, Math.ceil(lengthOf(way) / apart)));

export const pathOf = (way: readonly Point[]) => `M${way.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}`;
