import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { ask } from "../../api/ask";
import type { Build, Night, Sky, SourceState, Viewpoint } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { planesOf } from "./compose";

/** A picture of the night: of what, from where, when. */
export interface Sight {
  build: Build;
  /** The first where none is named. */
  scene?: string;
  /** The fullest where none is named. */
  state?: SourceState;
  from: Viewpoint;
  /** By what surrounds the build where none is chosen. */
  sky?: Sky;
  /** Pixels across and down. */
  size: readonly [number, number];
  /** As if every light got all that is asked for it. */
  asked?: boolean;
}

/** The light of a moment. */
export const nightOf = ({ build, scene, state, from, sky, size: [wide, high], asked }: Sight, t_s: number, signal?: AbortSignal): Promise<Night> =>
  ask("night", { document: build, scene: scene || undefined, state, from, sky, wide, high, asked: asked ?? false, t_s }, signal);

/** What stands in a picture: the same for a vehicle, a viewpoint and a size, whatever shines. */
const scenery = ({ build, from, size: [wide, high] }: Sight) => ({
  queryKey: ["night/scenery", build.vehicle.kind, build.vehicle.variant ?? "", from, wide, high],
  queryFn: async () => planesOf(await ask("night/scenery", { document: build, from, wide, high })),
  staleTime: Infinity,
  gcTime: 60_000,
});

/** A picture of a moment that stands still, the last one standing until the next is there. */
export function useNight(sight: Sight, t_s: number) {
  const client = useQueryClient();
  const { build, scene, state, from, sky, size, asked } = sight;
  return useQuery({
    queryKey: ["night", numberOf(build), scene, state, from, sky, size, asked, t_s],
    // The two belong together: light of one viewpoint never falls on what is seen from another.
    queryFn: async ({ signal }) => ({ planes: await client.ensureQueryData(scenery(sight)), night: await nightOf(sight, t_s, signal) }),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
}
