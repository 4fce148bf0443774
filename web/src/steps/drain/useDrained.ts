import { useQuery } from "@tanstack/react-query";
import { type Build, answer, api } from "../../api/client";
import { numberOf } from "../../document/useSolved";

/** What the lights of a build cost its battery, and its audit; while a newer answer is on its way, the one before. */
export const useDrained = (build: Build) =>
  useQuery({
    queryKey: ["drain", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/drain", { body: { document: build }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
