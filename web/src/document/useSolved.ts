import { keepPreviousData, queryOptions, replaceEqualDeep, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useLayoutEffect, useMemo, useState, useSyncExternalStore } from "react";
import type { Build, Mended, Solved, SourceState } from "../api/client";
import { ask, askNow } from "../api/ask";

/** What remedies cost is not spent while a hand is still typing, ms. */
const SETTLED = 150;

const numbers = new WeakMap<object, number>();
let counted = 0;

/** A number for each document or journal: a whole one is too long a key to compare at every keystroke. */
export function numberOf(build: object): number {
  const known = numbers.get(build) ?? ++counted;
  numbers.set(build, known);
  return known;
}

/** An answer with the document it belongs to: what is shown together was solved together. */
export type SolvedBuild = Solved & { build: Build };

let last: SolvedBuild | undefined;

/** What is equal to the answer before stays the same object, so that only what changed is drawn again. */
const keep = (answered: Solved, build: Build): SolvedBuild => (last = { ...replaceEqualDeep({ ...last, ...ahead }, answered), build });

const solving = (build: Build, scene: string, state: SourceState) =>
  queryOptions({
    queryKey: ["solve", numberOf(build), scene, state],
    queryFn: async ({ signal }) => keep(await ask("solve", { document: build, scene, state }, signal), build),
    staleTime: Infinity,
    gcTime: 20_000,
  });

/** The solved document; while a newer one is on its way, the one before. */
export const useSolved = (build: Build, scene: string, state: SourceState) => useQuery({ ...solving(build, scene, state), placeholderData: keepPreviousData });

export const keyOf = (finding: { code: string; subject: string }) => `${finding.code} ${finding.subject}`;

/** What mends a finding: changes that were tried, or what only the person can do. */
export type Mending = Pick<Mended, "remedies" | "advice">;

/** What mends each finding, by {@link keyOf}; `fresh` once it is of this very document. */
export interface Remedies {
  /** Absent until the first answer. */
  of: Record<string, Mending> | null;
  fresh: boolean;
}

/** Remedies of a document, looked for once it has settled. Until then those of the document before stay in view. */
export function useRemedies(build: Build): Remedies {
  const [settled, setSettled] = useState(build);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(build), SETTLED);
    return () => clearTimeout(timer);
  }, [build]);
  const found = useQuery({
    queryKey: ["remedies", numberOf(settled)],
    queryFn: async ({ signal }) => {
      const mended = await ask("remedies", { document: settled }, signal);
      return Object.fromEntries(mended.map((one) => [keyOf(one), one]));
    },
    enabled: settled === build,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const fresh = settled === build && !found.isPlaceholderData && found.data !== undefined;
  const of = found.data ?? (found.error ? NONE : null);
  return useMemo(() => ({ of, fresh }), [of, fresh]);
}

const NONE: Record<string, Mending> = {};

/** What is said of a document before the rest of its answer. */
export type Judged = Pick<Solved, "verdict" | "findings" | "cards"> & { picture?: Solved["picture"]; build: Build };

/** The verdict of an edit whose whole answer is not drawn yet. */
let ahead: Judged | null = null;
const listeners = new Set<() => void>();

function setAhead(next: Judged | null) {
  if (next === ahead) return;
  ahead = next;
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

/** Of what is drawn and the verdict of an edit that is about to be: the newer. Told of every drawing. */
export function useNewest(solved: SolvedBuild | undefined): Judged | undefined {
  const early = useSyncExternalStore(subscribe, () => ahead);
  useLayoutEffect(() => {
    if (ahead?.build === solved?.build) setAhead(null);
  }, [solved]);
  useEffect(() => () => setAhead(null), []);
  return early ?? solved;
}

/**
 * Asks for an edited document before it is drawn, and says whether its verdict is there: a short one is by then. The whole
 * answer is a worker's or the server's, while the page draws. `null` forgets what was ahead.
 */
export function useAhead(shown: { current: { scene: string; state: SourceState } }) {
  const client = useQueryClient();
  return useCallback(
    (build: Build | null) => {
      const { scene, state } = shown.current;
      const judged = build && judgedNow(build, scene);
      setAhead(judged && { ...replaceEqualDeep(ahead ?? last, judged), build });
      // With a verdict to draw, the rest is not even asked for before that is on the screen.
      if (build && !judged) void client.prefetchQuery(solving(build, scene, state));
      return judged !== null;
    },
    [client, shown],
  );
}

/** A verdict that is short to find and says all there is to say of a scene; a refusal is the whole answer's to show. */
function judgedNow(document: Build, scene: string) {
  try {
    const judged = askNow("verdict", { document }, "solve");
    return judged?.verdict.costs.some((cost) => cost.scene === scene) ? judged : null;
  } catch {
    return null;
  }
}
