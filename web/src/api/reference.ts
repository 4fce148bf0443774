import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { type Check, type Part, type Reference, answer, api } from "./client";

/** The library, the glossary and the vehicles; they never change while the program runs. */
export function useReference(): Reference | undefined {
  return useQuery({ queryKey: ["reference"], queryFn: () => answer(api.GET("/api/v1/reference")), staleTime: Infinity, gcTime: Infinity }).data;
}

/** Parts of the person's own, retired ones among them. */
export function useOwnParts(): Part[] {
  return useQuery({ queryKey: ["parts"], queryFn: () => answer(api.GET("/api/v1/parts")), staleTime: 60_000 }).data ?? NONE;
}

const NONE: Part[] = [];

/** Parts of the library, of the person's own and of this build, own ones first; what is retired is not offered. */
export function useParts(ofBuild: readonly Part[] = []): Part[] {
  const shipped = useReference()?.parts ?? [];
  const own = useOwnParts();
  const kept = [...own.filter((part) => !part.retired), ...ofBuild.filter((part) => own.every((known) => known.id !== part.id))];
  return [...kept, ...shipped];
}

/** The step of the job at which a finding is mended, by its code. */
export function useStepOf(): (code: string) => Check["step"] | undefined {
  const checks = useReference()?.checks;
  return useCallback((code) => checks?.find((check) => check.code === code)?.step, [checks]);
}
