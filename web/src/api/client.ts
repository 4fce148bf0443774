import createClient from "openapi-fetch";
import { transport } from "../core/transport";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Build = Schemas["Build"];
export type Battery = Extract<Build["source"], { kind: "battery" }>;
export type Light = Schemas["Light"];
export type LedArray = Schemas["LedArray"];
export type Converter = Schemas["Converter"];
export type Feed = Schemas["Feed"];
export type Gauge = Schemas["Gauge"];
export type StoredBuild = Schemas["StoredBuild"];
export type Probed = Schemas["Probed"];
export type LightLook = Schemas["LightLook"];
export type Made = Schemas["Made"];
export type CutList = Schemas["CutList"];
export type PartsList = Schemas["PartsList"];
export type Fitted = Schemas["Fitted"];
export type Board = Schemas["Board"];
export type CircuitChoice = Schemas["CircuitChoice"];
export type CircuitFigures = Schemas["CircuitFigures"];
export type CircuitView = Schemas["CircuitView"];
export type ShowView = Schemas["ShowView"];
export type Played = Schemas["Played"];
export type Arrived = Schemas["Arrived"];
export type Cards = Schemas["Cards"];
export type Thumbnail = Schemas["Thumbnail"];
export type PixelEffect = Schemas["PixelEffect"];
export type InputCard = Schemas["InputCard"];
export type SawRed = Schemas["SawRed"];
export type ControllerHeard = Schemas["ControllerHeard"];
export type CrossWired = Schemas["CrossWired"];
export type Diagram = Schemas["Diagram"];
export type WireLabel = Schemas["WireLabel"];
export type Practice = Schemas["Practice"];
export type Taught = Schemas["Taught"];
export type Dealt = Schemas["Dealt"];
export type DrillRequest = Schemas["DrillRequest"];
export type MeterStands = Schemas["MeterStands"];
export type MeterShows = Schemas["MeterShows"];
export type Marked = Schemas["Marked"];
export type Pinch = Schemas["Pinch"];
export type BenchCheck = Schemas["BenchCheck"];
export type Diagnosis = Schemas["Diagnosis"];
export type CheckRead = Schemas["CheckRead"];
export type NextCheck = Schemas["NextCheck"];
export type SawRequest = Schemas["SawRequest"];
export type ReadRequest = Schemas["ReadRequest"];
export type JournalEvent = Schemas["JournalEvent"];
export type Around = Schemas["Around"];
export type Air = Schemas["Air"];
export type LightSeen = Schemas["LightSeen"];
export type Source = Build["source"];
export type Design = Schemas["Design"];
export type Falling = Schemas["Falling"];
export type Night = Schemas["Night"];
export type Purpose = Schemas["Purpose"];
export type Hands = Schemas["Hands"];
export type Scenery = Schemas["Scenery"];
export type Sky = Schemas["Sky"];
export type Viewpoint = Schemas["Viewpoint"];
export type VehicleView = Schemas["VehicleView"];
export type JournalView = Schemas["JournalView"];
export type Chart = Schemas["JournalChart"];
export type ChartEvent = Schemas["ChartEvent"];
export type Offer = Schemas["Offer"];
export type Reminder = Schemas["Reminder"];
export type Passport = Schemas["Passport"];
export type WouldChange = Schemas["WouldChange"];
export type Me = Schemas["Me"];
export type Garage = Schemas["Garage"];
export type ShelfEntry = Schemas["ShelfEntry"];
export type Solved = Schemas["Solved"];
export type Report = Schemas["Report"];
export type Finding = Schemas["Finding"];
export type Card = Schemas["Card"];
export type MendedAll = Schemas["MendedAll"];
export type Severity = Schemas["Severity"];
export type Remedy = Schemas["Remedy"];
export type WhatIf = Schemas["WhatIf"];
export type Mended = Schemas["Mending"];
export type Applied = Schemas["Applied"];
export type Effect = Schemas["Effect"];
export type Picture = Schemas["Picture"];
export type Reach = Schemas["Reach"];
export type Glow = Schemas["Glow"];
export type Fact = Schemas["Fact"];
export type Working = Schemas["Working"];
export type Problem = Schemas["Problem"];
export type Part = Schemas["Part"];
export type Wish = Schemas["Wish"];
export type Job = Schemas["Job"];
export type Task = Schemas["Task"];
export type Draw = Schemas["Draw"];
export type Removal = Schemas["Removal"];
export type Question = Schemas["Question"];
export type Choice = Schemas["Choice"];
export type Caution = Schemas["Caution"];
export type Check = Schemas["Check"];
export type SourceSheet = Schemas["SourceSheet"];
export type Drained = Schemas["Drained"];
export type Discharge = Schemas["Discharge"];
export type Tried = Schemas["Tried"];
export type VehicleSheet = Schemas["VehicleSheet"];
export type Reference = Schemas["Reference"];
export type Trait = Schemas["Trait"];
export type Led = Schemas["Led"];
export type Scene = Schemas["Scene"];
export type Strip = Extract<Light["load"], { kind: "strip" }>;
export type SourceState = Schemas["State"];
export type VehicleKind = Schemas["VehicleKind"];
export type Chemistry = Schemas["Chemistry"];

/** The API; what the core in the page can answer does not leave it. */
export const api = createClient<paths>({ baseUrl: "/", fetch: transport });

/** An answer that was not what was asked for, with the server's words. */
export class ApiProblem extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

const UNREACHABLE: Problem = {
  type: "offline",
  title: "The server is not answering",
  status: 0,
  detail: "The server is not running or not reachable. Start it again; what you typed is kept here.",
};

/** The data of an answer, or an {@link ApiProblem}. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let outcome;
  try {
    outcome = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new ApiProblem(UNREACHABLE);
  }
  if (outcome.response.ok) return outcome.data as T;
  const body = outcome.error;
  const known = typeof body === "object" && body !== null && "detail" in body;
  throw new ApiProblem(known ? (body as Problem) : { ...UNREACHABLE, status: outcome.response.status });
}

/** A problem for people, whatever was thrown. */
export function problemOf(error: unknown): Problem {
  // What a program writes between backticks stands between quotes for people.
  if (error instanceof ApiProblem) return { ...error.problem, detail: error.problem.detail.replace(/`([^`]*)`/g, "“$1”") };
  return { ...UNREACHABLE, title: "Something broke", detail: error instanceof Error ? error.message : String(error) };
}
