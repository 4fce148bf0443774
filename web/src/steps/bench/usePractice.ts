import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Dealt, type DrillRequest, answer, api, problemOf } from "../../api/client";

/** A drill that is on, and what is seen of it. */
export interface Practising {
  drill: DrillRequest | null;
  dealt: Dealt | undefined;
  /** Why it cannot be dealt. */
  trouble: string | null;
  start: (drill: DrillRequest | null) => void;
}

/** The drill that is on: the build as it was when it began, whatever is edited meanwhile. */
export function usePractice(shown: boolean): Practising {
  const [drill, start] = useState<DrillRequest | null>(null);
  const asked = useQuery({
    queryKey: ["drill", drill?.level, drill?.seed],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/drill", { body: drill!, signal })),
    enabled: shown && drill !== null,
    staleTime: Infinity,
  });
  return { drill, dealt: drill ? asked.data : undefined, trouble: drill && asked.error ? problemOf(asked.error).detail : null, start };
}
