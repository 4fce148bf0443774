import { keepPreviousData, queryOptions, replaceEqualDeep, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import type { Build, Mended, Solved, SourceState } from "../api/client";
import { ask } from "../core/ask";

/** What remedies cost is not spent while a hand is still typing, ms. */
const SETTLED = 150;

const numbers = new WeakMap<Build, number>();
let counted = 0;

/** A number for each document: a whole one is too long a key to compare at every keystroke. */
export function numberOf(build: Build): number {
  const known = numbers.get(build) ?? ++counted;
  numbers.set(build, known);
  return known;
}

/** An answer with the document it belongs to: what is shown together was solved together. */
export type SolvedBuild = Solved & { build: Build };

let last: SolvedBuild | undefined;

const solving = (build: Build, scene: string, state: SourceState) =>
  queryOptions({
    queryKey: ["solve", numberOf(build), scene, state],
    queryFn: async ({ signal }): Promise<SolvedBuild> => {
      const answered = await ask("solve", { document: build, scene, state }, signal);
      // What is equal to the answer before stays the same object, so that only what changed is drawn again.
      return (last = { ...replaceEqualDeep(last, answered), build });
    },
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

/** Asks for an edited document before it is drawn: the server works while the page does. */
export function useAhead(shown: { current: { scene: string; state: SourceState } }) {
  const client = useQueryClient();
  return useCallback((build: Build) => void client.prefetchQuery(solving(build, shown.current.scene, shown.current.state)), [client, shown]);
}
