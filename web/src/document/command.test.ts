import { expect, test } from "vitest";
import { matching, nearest } from "./command";

const ALL = [
  { name: "Go to Steps", also: "solder build do next" },
  { name: "Print the build sheet", also: "paper pdf" },
  { name: "Save as one page for your phone", also: "share send" },
  { name: "Keys and shortcuts", also: "help" },
  { name: "Open rear-left" },
];
const names = (found: { name: string }[]) => found.map((one) => one.name);

test("what is named so comes before what is only called so", () => {
  expect(names(matching(ALL, "build"))).toEqual(["Print the build sheet", "Go to Steps"]);
  expect(names(matching(ALL, ""))).toEqual(names([...ALL]));
});

test("every word that was typed has to be there, in any order and by its beginning", () => {
  for (const [typed, found] of [
    ["sheet print", "Print the build sheet"],
    ["PRI", "Print the build sheet"],
    ["solder", "Go to Steps"],
    ["share", "Save as one page for your phone"],
    ["help", "Keys and shortcuts"],
    ["rear left", "Open rear-left"],
  ] as const)
    expect(names(matching(ALL, typed)), typed).toEqual([found]);
  for (const typed of ["print solder", "caravan"]) expect(matching(ALL, typed), typed).toEqual([]);
});

test("a slip of the finger is met with what was meant", () => {
  for (const [typed, meant] of [
    ["prnt", "Print the build sheet"],
    ["soldr", "Go to Steps"],
    ["shortcust", "Keys and shortcuts"],
  ] as const)
    expect(nearest(ALL, typed)?.name, typed).toBe(meant);
  for (const typed of ["xylophone", "ab", ""]) expect(nearest(ALL, typed), typed).toBeUndefined();
});
