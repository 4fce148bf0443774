import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { type VehicleKind, type VehicleSheet, type VehicleView, answer, api } from "../api/client";
import { wordsOf } from "../document/fields";
import { lengthOf, pointAt, pointsOf } from "./along";

/** One form of a kind of vehicle. */
export type Form = VehicleSheet["variants"][number];
/** One drawing of it. */
export type View = VehicleView;
/** A place where light can go, on a canvas of 560 by 300. */
export type Place = View["places"][number];

// The core's own files, so that a new build waits for no answer.
const files = import.meta.glob<VehicleSheet>("../../../core/model/data/vehicles/*.json", { eager: true, import: "default" });
const sheets = new Map(Object.values(files).map((sheet) => [sheet.kind, sheet]));

/** In the order in which they are offered. */
export const KINDS = wordsOf("VehicleKind").map(([kind]) => kind as VehicleKind);

/** What a kind of vehicle is called. */
export const vehicleName = (kind: string) => wordsOf("VehicleKind").find(([known]) => known === kind)?.[1] ?? kind;

/** What is known of a kind of vehicle, with its forms. */
export function vehicle(kind: VehicleKind): VehicleSheet {
  const sheet = sheets.get(kind) ?? sheets.get("other");
  if (!sheet) throw new Error("the sheets of the vehicles are not here");
  return sheet;
}

/** The form of a vehicle: the named one, else the first. */
export function formOf({ kind, variant }: { kind: VehicleKind; variant?: string | null }): Form {
  const { variants } = vehicle(kind);
  return variants.find((known) => known.id === variant) ?? variants[0]!;
}

const NONE: readonly View[] = [];

/** A vehicle from beside, behind and above, first from where its places are seen best; none until they are fetched, once. */
export function useViews({ kind, variant }: { kind: VehicleKind; variant?: string | null }): readonly View[] {
  const form = formOf({ kind, variant }).id;
  const asked = useQuery({
    queryKey: ["drawings", kind, form],
    queryFn: () => answer(api.POST("/api/v1/drawings", { body: { kind, variant: form } })),
    staleTime: Infinity,
    gcTime: Infinity,
  });
  return useMemo(() => asked.data?.map((view) => ({ ...view, places: apart(view.places) })) ?? NONE, [asked.data]);
}

/** Marks of two places closer than this cannot be told from each other, or pressed one by one. */
const CLOSE = 24;
/** How far along its way a mark goes aside, in shares of it. */
const ASIDE = [-0.22, 0.22, -0.4, 0.4];
const AROUND = [
  [0, -1],
  [1, 0],
  [-1, 0],
  [0, 1],
] as const;

/** Places that lie behind each other, as left and right do from beside, with their marks moved apart: along their way, else beside. */
export function apart(places: readonly Place[]): Place[] {
  const put: Place[] = [];
  for (const place of places) {
    const free = ({ x, y }: { x: number; y: number }) => put.every((other) => Math.hypot(other.x - x, other.y - y) >= CLOSE);
    const way = place.along ? pointsOf(place.along) : [];
    const long = way.length > 1 ? lengthOf(way) : 0;
    const along = long > 2 * CLOSE ? ASIDE.map((share) => pointAt(way, (0.5 + share) * long)) : [];
    const beside = [1, 2, 3].flatMap((step) => AROUND.map(([dx, dy]) => [place.x + CLOSE * step * dx, place.y + CLOSE * step * dy] as const));
    const found = free(place) ? undefined : [...along, ...beside].find(([x, y]) => free({ x, y }));
    put.push(found ? { ...place, x: found[0], y: found[1] } : place);
  }
  return put;
}

/** Where a light is drawn: at the named place, else by the words in it, else along the top in its order. */
export function spot(outline: View, place: string, index: number): Pick<Place, "x" | "y" | "along"> {
  const words = place.toLowerCase();
  const named =
    outline.places.find((known) => known.name === words) ??
    outline.places.find((known) => words !== "" && (known.name.includes(words) || words.includes(known.name)));
  return named ?? { x: 120 + ((index * 90) % 360), y: 30 };
}
