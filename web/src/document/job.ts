/** What forms know of the job beside the table of fields: what each kind begins with, asks for and is called. From the core. */
import table from "../api/fields.json" with { type: "json" };
import type { Build, Purpose, Sky, Viewpoint } from "../api/client";

/** One figure that is asked of a person who wants a circuit. */
export interface WantedField {
  field: string;
  label: string;
  unit: string;
  begins: number | null;
}

/** A figure to try, as a slider. */
export interface Dial {
  name: string;
  label: string;
  min: number;
  max: number;
  step: number;
  unit: string;
  /** Only a battery has it. */
  battery: boolean;
}

/** A kind of light that a person adds. */
export interface LightForm {
  kind: string;
  called: string;
  what: string;
  load: string | null;
  counted: boolean;
  cut: boolean;
}

/** What a form of a vehicle is like. */
interface VehicleForm {
  flies: boolean;
  hovers: boolean;
  frame_may_return: boolean;
  lived_in: boolean;
}

interface Job {
  remotes: Record<string, { idle_a: number; asks: string }>;
  wishes: Record<string, readonly WantedField[]>;
  /** What a small circuit is for, and whether it drives no light of the build. */
  circuits: Record<string, { about: string; alone: boolean }>;
  moves: Record<string, { bends: boolean; resistance_ohm: number; bounce_share: number }>;
  vehicles: Record<string, Record<string, VehicleForm>>;
  lights: readonly LightForm[];
  dials: readonly Dial[];
  time: { weekday: string; start: string; minutes: number };
  suppliers: readonly string[];
  no_suppliers: readonly string[];
  /** What a sentence calls it. */
  sources: Record<string, string>;
  /** What a craft has that hears what switches nearby, by the names that a position may have. */
  listens: readonly string[];
  /** From where the night is seen, and how far behind a driver sits. */
  viewpoints: readonly { word: Viewpoint; called: string; behind_m: number | null }[];
  /** What light there may be beside a build's. */
  skies: readonly (readonly [Sky, string])[];
  /** What a light at a usual place most likely is for. */
  likely: Record<string, { for: Purpose; colour: string }>;
  /** Colours to wish for. */
  colours: readonly string[];
}

export const JOB = table.job as unknown as Job;

/** What the vehicle of a build is like. */
export function vehicleOf({ vehicle }: Build): VehicleForm {
  const forms = JOB.vehicles[vehicle.kind]!;
  return forms[vehicle.variant ?? ""] ?? forms[""]!;
}

/** Parts on which more may hang, the source first. */
export function suppliersOf(build: Build): string[] {
  const lists = JOB.suppliers.map((name) => (build as unknown as Record<string, { id: string; kind?: string }[]>)[name] ?? []);
  return ["source", ...lists.flatMap((list) => list.filter((one) => !JOB.no_suppliers.includes(one.kind ?? "")).map((one) => one.id))];
}

/** What a person calls that on which parts hang. */
export const supplierName = (build: Build, id: string): string => (id === "source" ? `the ${JOB.sources[build.source.kind]}` : id);
