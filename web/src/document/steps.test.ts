import { expect, test } from "vitest";
import type { Build } from "../api/client";
import { GROUPS, STATES, STATE_NAMES, STATE_PHRASES, STEPS, STEP_NAMES, groupOf, likelyStates } from "./steps";

test("every step has a name and stands in one part of the job", () => {
  expect(GROUPS.flatMap((group) => group.steps)).toEqual([...STEPS]);
  for (const step of STEPS) expect([STEP_NAMES[step].length > 0, groupOf(step).steps.includes(step)]).toEqual([true, true]);
  for (const state of STATES) expect(STATE_NAMES[state] && STATE_PHRASES[state], state).toBeTruthy();
});

test("the dial shows the likely states before the core has said which there are", () => {
  const of = (source: object, power_w = 0) => likelyStates({ source, vehicle: { propulsion: { power_w } } } as unknown as Build);
  expect(of({ kind: "battery", used_while_charging: true })).toEqual(["charging", "full", "half", "reserve"]);
  expect(of({ kind: "battery", used_while_charging: false }, 200)).toEqual(["full", "half", "reserve", "under_way"]);
  expect([of({ kind: "rail" }), of({ kind: "track" })]).toEqual([["rail"], ["track"]]);
});
