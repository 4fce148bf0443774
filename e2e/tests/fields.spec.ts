import { expect, test } from "@playwright/test";
import type { Build } from "../../web/src/api/client";
import { editorOf, everyField, fieldAt } from "../../web/src/document/fields";

/** Every field of the document that a person reads a label of can be edited where it stands. */

test("every field with a label has an editor", () => {
  const labelled = everyField().filter(([, spec]) => spec.label !== undefined);
  expect(labelled.length).toBeGreaterThan(200);
  expect(labelled.filter(([, spec]) => editorOf(spec) === "apart").map(([name]) => name)).toEqual([]);
});

test("an entry of a list or a map is edited as what it is", () => {
  const build = {
    usage: { minutes: { ride: 40 } },
    circuits: [{ kind: "hold_up", parts: { taps_ohm: [1000, 1000] } }],
    places: [{ name: "front", traits: ["wet"] }],
  } as unknown as Build;
  const editor = (at: string) => editorOf(fieldAt(build, at));
  expect(editor("/usage/minutes/ride")).toBe("figure");
  expect(editor("/usage/minutes")).toBe("figures");
  expect(editor("/circuits/0/parts/taps_ohm/1")).toBe("figure");
  expect(editor("/circuits/0/parts/taps_ohm")).toBe("figures");
  expect(editor("/places/0/traits")).toBe("words");
  expect(editor("/places/0/traits/0")).toBe("word");
  expect(fieldAt(build, "/circuits/0/parts/taps_ohm/0").max).toBe(1e9);
});
