import { Box, Spinner } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { getRouteApi } from "@tanstack/react-router";
import { answer, api, problemOf } from "../api/client";
import { WorkingProvider } from "../job/Figure";
import { Failure } from "../ui/Failure";
import { Unreadable } from "./Unreadable";
import { Workbench } from "./Workbench";

const route = getRouteApi("/builds/$id");

/** The page of a build: it is fetched, and opened on the workbench. */
export function BuildPage() {
  const id = Number(route.useParams().id);
  const stored = useQuery({
    queryKey: ["build", id],
    queryFn: () => answer(api.GET("/api/v1/builds/{id}", { params: { path: { id } } })),
    gcTime: 0,
    staleTime: Infinity,
  });
  if (stored.error && problemOf(stored.error).type === "unreadable") return <Unreadable id={id} onMended={() => void stored.refetch()} />;
  if (stored.error) return <Failure problem={problemOf(stored.error)} retry={() => void stored.refetch()} />;
  if (!stored.data)
    return (
      <Box h="100%" display="grid" placeItems="center" role="status" aria-label="Opening the build">
        <Spinner color="lantern.solid" />
      </Box>
    );
  return (
    <WorkingProvider>
      <Workbench key={id} stored={stored.data} />
    </WorkingProvider>
  );
}
