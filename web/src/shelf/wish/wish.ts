/** What somebody wishes for while it is told, kept until a build is made of it. */
import type { Hands, Purpose, Source, VehicleKind } from "../../api/client";
import { kept } from "../../base/kept";
import { formOf } from "../../scene/outlines";

export interface WishedLight {
  place: string;
  for: Purpose;
  colour: string;
  length_m: number | null;
  count: number;
}

/** Where the power comes from: the usual of such a vehicle, a label, or a pack of the lights' own. */
export type Supply = { by: "usual" } | { by: "label"; text: string; source: Source | null } | { by: "own" };

export interface Told {
  name: string;
  kind: VehicleKind;
  variant: string;
  lights: WishedLight[];
  supply: Supply;
  hours: number;
  hands: Hands;
  most_cost: number | null;
  most_mass_g: number | null;
}

export const BEGIN: Told = {
  name: "",
  kind: "bicycle",
  variant: formOf({ kind: "bicycle" }).id,
  lights: [],
  supply: { by: "usual" },
  hours: 3,
  hands: "crimp",
  most_cost: null,
  most_mass_g: null,
};

const KEY = "orthavis.wish";

/** What was told so far; a fresh beginning where nothing that can be read is kept. */
export function told(): Told {
  try {
    return { ...BEGIN, ...(JSON.parse(kept.get(KEY) ?? "{}") as Partial<Told>) };
  } catch {
    return BEGIN;
  }
}

export const keepTold = (next: Told) => kept.set(KEY, JSON.stringify(next));
export const dropTold = () => kept.drop(KEY);

/** The wish as a document; `source` is what the vehicle's own battery came out as. */
export const wishOf = (own: Told, source: Source | null) => ({
  format: "orthavis.wish/1",
  name: own.name.trim() || formOf(own).name,
  vehicle: { kind: own.kind, variant: own.variant, mass_kg: null },
  battery: own.supply.by === "own" ? null : source,
  own_pack: own.supply.by === "own" ? "must" : "no",
  lights: own.lights.map((light) => ({ ...light, colour: light.for === "show" ? "any" : light.colour, lm: null })),
  hours: own.hours,
  hands: own.hands,
  have: [],
  most_cost: own.most_cost,
  most_mass_g: own.most_mass_g,
  currency: "EUR",
});
