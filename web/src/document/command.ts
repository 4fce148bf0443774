/** Something that the palette finds. */
export interface Command {
  name: string;
  /** What people call it besides, word after word. */
  also?: string;
  keys?: string;
  act: () => void;
}

const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** How many letters have to change to make one word of the other. */
function apart(one: string, two: string): number {
  let row = Array.from({ length: two.length + 1 }, (_, index) => index);
  for (let i = 1; i <= one.length; i++) {
    const next = [i];
    for (let j = 1; j <= two.length; j++) next.push(Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (one[i - 1] === two[j - 1] ? 0 : 1)));
    row = next;
  }
  return row[two.length]!;
}

/** Those whose name, or what people call them, has every word that was typed; by name first. */
export function matching<T extends { name: string; also?: string }>(all: readonly T[], typed: string): T[] {
  const words = wordsOf(typed);
  const has = (text: string) => words.every((word) => wordsOf(text).some((known) => known.startsWith(word)) || text.toLowerCase().includes(word));
  const named = all.filter((one) => has(one.name));
  return [...named, ...all.filter((one) => !named.includes(one) && has(`${one.name} ${one.also ?? ""}`))];
}

/** The one that is spelled most alike, where nothing matches; `undefined`: none comes close. */
export function nearest<T extends { name: string; also?: string }>(all: readonly T[], typed: string): T | undefined {
  let best: { one: T; letters: number } | undefined;
  for (const word of wordsOf(typed).filter((word) => word.length > 2))
    for (const one of all)
      for (const known of wordsOf(`${one.name} ${one.also ?? ""}`).filter((known) => known.length > 2)) {
        const letters = apart(word, known);
        if (letters <= Math.max(1, Math.floor(word.length / 3)) && letters < (best?.letters ?? Infinity)) best = { one, letters };
      }
  return best?.one;
}
