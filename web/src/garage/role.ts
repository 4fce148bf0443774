import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Me, answer, api } from "../api/client";
import { onRefused } from "../core/transport";

/** Addresses at which a browser is on the workshop's own machine: whoever sits there is the owner. */
const NEAR = ["127.0.0.1", "localhost", "[::1]"].includes(location.hostname);

const OWNER: Me = { role: "owner" };

/** What this browser may do here; absent until the server has said. */
export function useMe(): Me | undefined {
  const client = useQueryClient();
  const asked = useQuery({
    queryKey: ["me"],
    queryFn: () => answer(api.GET("/api/v1/me")),
    enabled: !NEAR,
    staleTime: Infinity,
    gcTime: Infinity,
    refetchOnWindowFocus: "always",
  });
  // A device that was shut out learns of it by its next refused request; one that may edit from now on, when it is looked at again.
  useEffect(() => onRefused(() => void client.invalidateQueries({ queryKey: ["me"] })), [client]);
  return NEAR ? OWNER : asked.data;
}

/** Whether this browser may change what is kept. */
export function useMayEdit(): boolean {
  const role = useMe()?.role;
  return role === "owner" || role === "editor";
}
