import { useQuery } from "@tanstack/react-query";
import { type Build, answer, api } from "../../api/client";
import { numberOf } from "../../document/useSolved";

/** Which part goes into which cavity, and where the plan moves the centre of mass. */
export function useFit(build: Build) {
  return useQuery({
    queryKey: ["fit", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/fit", { body: { document: build }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
}
