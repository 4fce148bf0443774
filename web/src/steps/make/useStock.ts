import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { answer, api } from "../../api/client";

const KEY = ["stock"];
const NONE = {};

/** What lies in the drawer, by the names of the shopping list; it is the workshop's, not a build's. */
export function useStock() {
  const client = useQueryClient();
  const asked = useQuery({ queryKey: KEY, queryFn: ({ signal }) => answer(api.GET("/api/v1/stock", { signal })), staleTime: 10_000 });
  const put = useCallback(
    (part: string, count: number) => {
      client.setQueryData(KEY, (known: Record<string, number> | undefined) => ({ ...known, [part]: count }));
      void answer(api.PUT("/api/v1/stock", { body: { part, count } })).then(
        (all) => client.setQueryData(KEY, all),
        () => client.invalidateQueries({ queryKey: KEY }),
      );
    },
    [client],
  );
  return { stock: asked.data ?? NONE, put };
}
