import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { answer, api } from "../api/client";
import { here } from "../journal/event";
import { inOwn } from "../units";

/** Days ahead for which the shelf reminds. */
const SOON = 3;

/** What is due of a build now; nothing where nothing is. */
export function Due({ id, revision }: { id: number; revision: number }) {
  const due = useQuery({
    queryKey: ["due", id, revision],
    queryFn: () => answer(api.GET("/api/v1/builds/{id}/due", { params: { path: { id }, query: { now: here() } } })),
    staleTime: 60_000,
    // The shelf is there without it.
    throwOnError: false,
  });
  const now = due.data?.filter((one) => one.in_days <= SOON) ?? [];
  const first = now[0];
  if (!first) return null;
  return (
    <Box asChild position="relative" display="block" color="fix.fg" fontSize="sm" mt="1" minH="6">
      <Link to="/builds/$id" params={{ id: String(id) }} search={{ step: "journal" }}>
        ◷ {inOwn(first.title)}
        {now.length > 1 && `, and ${now.length - 1} more`}
      </Link>
    </Box>
  );
}
