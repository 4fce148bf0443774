import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Build, type LightLook, type Picture, type SourceState, answer, api } from "../../api/client";
import { numberOf } from "../../document/useSolved";

/** What probes read of a build with a fault in it, or without, once fuses and modules have done what they do. */
export function useProbed(build: Build, scene: string, state: SourceState, fault: string | null, enabled: boolean) {
  return useQuery({
    queryKey: ["probe", numberOf(build), scene, state, fault],
    queryFn: ({ signal }) =>
      answer(api.POST("/api/v1/probe", { body: { document: build, scene, state, faults: fault ? [fault] : [], ohms: [], aftermath: true }, signal })),
    enabled: enabled && scene !== "",
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
}

/** The picture as the lights look with a fault in it. */
export function pictureWith(picture: Picture | null, lights: readonly LightLook[] | undefined): Picture | null {
  if (!picture || !lights) return picture;
  const shares = new Map(lights.map((look) => [look.light, look.share]));
  return { ...picture, glows: picture.glows.map((glow) => ({ ...glow, output: glow.output * Math.min(1.5, shares.get(glow.id) ?? 1) })) };
}

/** The part that a point belongs to. */
export const partOf = (point: string) => point.split(/[:/@+-]/)[0] ?? point;
