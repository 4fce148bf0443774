import { expect, test } from "vitest";
import { ApiProblem, answer, problemOf } from "./client";

const refused = { type: "t", title: "No such light", status: 422, detail: "There is no light `tail`. Name one of `front`." };
const said = (status: number, body: { data?: unknown; error?: unknown }) =>
  Promise.resolve({ ...body, response: new Response(null, { status }) }) as Promise<{ data?: unknown; error?: unknown; response: Response }>;

test("an answer is its data, and a refusal keeps the server's words", async () => {
  expect(await answer(said(200, { data: { lights: 2 } }))).toEqual({ lights: 2 });
  const failed = await answer(said(422, { error: refused })).catch((error: unknown) => error);
  expect(failed).toBeInstanceOf(ApiProblem);
  expect((failed as ApiProblem).problem).toEqual(refused);
  // Names of parts are between quotes for people.
  expect(problemOf(failed).detail).toBe("There is no light “tail”. Name one of “front”.");
});

test("what is no answer of the server's is said as such", async () => {
  for (const error of ["<html>", undefined, { other: 1 }]) {
    const failed = await answer(said(502, { error })).catch((problem: unknown) => problem);
    expect(problemOf(failed)).toMatchObject({ title: "The server is not answering", status: 502 });
  }
  const gone = await answer(Promise.reject(new TypeError("fetch failed"))).catch((error: unknown) => error);
  expect(problemOf(gone)).toMatchObject({ title: "The server is not answering", status: 0 });
  // Called off is no failure to be told of.
  const off = new DOMException("off", "AbortError");
  await expect(answer(Promise.reject(off))).rejects.toBe(off);
  expect(problemOf(new Error("it broke"))).toMatchObject({ title: "Something broke", detail: "it broke" });
  expect(problemOf("odd").detail).toBe("odd");
});
