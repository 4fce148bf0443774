import { expect, test } from "vitest";
import { SCREEN, codes, hexOf, screen, sharesOf } from "./linear";

test("a colour of light is bent for the screen and back", () => {
  expect([screen(0), screen(1), screen(2), screen(0.5), screen(0.001)]).toEqual([0, 255, 255, 188, 3]);
  expect([hexOf([1, 0, 0.5]), sharesOf("#ff00bc")]).toEqual(["#ff00bc", [1, 0, 0.503]]);
  // Whatever a colour field can say comes back as it was.
  for (let code = 0; code < 256; code++) {
    const hex = `#${code.toString(16).padStart(2, "0").repeat(3)}`;
    const back = parseInt(hexOf(sharesOf(hex)).slice(1, 3), 16);
    expect(Math.abs(back - code), `${hex} came back as ${back}`).toBeLessThanOrEqual(code < 20 ? 2 : 1);
    expect(SCREEN[code]).toBe(screen(code / 255));
    if (code > 0) expect(SCREEN[code]! >= SCREEN[code - 1]!, "brighter light is no darker on the screen").toBe(true);
  }
  const into = new Uint8Array(4);
  codes("xx00ff7f10", 2, 4, into);
  expect([...into]).toEqual([0, 255, 127, 16]);
});
