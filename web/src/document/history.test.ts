import { expect, test } from "vitest";
import { type History, begin, reduce } from "./history";

const typed = (state: History<string>, build: string, touched: string, at: number) => reduce(state, { kind: "edit", build, touched, at });

const back = (state: History<string>) => reduce(state, { kind: "undo" });

const again = (state: History<string>) => reduce(state, { kind: "redo" });

test("what is typed into one field in one go is undone in one go", () => {
  let state = begin("");
  for (const [index, build] of ["t", "tr", "tri"].entries()) state = typed(state, build, "name", 1000 + 200 * index);
  expect(state.now).toBe("tri");
  expect(back(state).now).toBe("");
  // A pause, or another field, is a step of its own.
  const later = typed(state, "trike", "name", 5000);
  expect(back(later).now).toBe("tri");
  const other = typed(state, "tri, 14 Ah", "capacity", 1500);
  expect(back(other).now).toBe("tri");
  expect(back(back(other)).now).toBe("");
});

test("undo and redo walk the same way, until something new is done", () => {
  let state = begin("one");
  for (const [index, build] of ["two", "three", "four"].entries()) state = typed(state, build, `field ${index}`, 0);
  const seen = [state.now];
  for (let n = 0; n < 4; n++) seen.push((state = back(state)).now);
  expect(seen).toEqual(["four", "three", "two", "one", "one"]);
  expect(again(state).now).toBe("two");
  expect(again(again(again(again(state)))).now).toBe("four");
  // After an undo the same field begins a new step.
  const changed = typed(again(state), "two and a half", "field 0", 1);
  expect(again(changed).now).toBe("two and a half");
  expect(back(changed).now).toBe("two");
  // A whole other document can be undone too.
  const replaced = reduce(changed, { kind: "replace", build: "theirs" });
  expect([replaced.now, back(replaced).now]).toEqual(["theirs", "two and a half"]);
});

test("a long afternoon is remembered for three hundred steps", () => {
  let state = begin("0");
  for (let n = 1; n <= 1000; n++) state = typed(state, `${n}`, "", n * 10_000);
  let steps = 0;
  for (let now = state; back(now) !== now; now = back(now)) steps++;
  expect(steps).toBe(300);
});
