import { type Mended, type Problem, type Solved, ApiProblem, answer, api } from "../api/client";
import type { paths } from "../api/schema";
import { askHere } from "./transport";

/** Questions that are asked at every keystroke, and what they answer. */
interface Answers {
  solve: Solved;
  remedies: Mended[];
}

type Body<N extends keyof Answers> = paths[`/api/v1/${N}`]["post"]["requestBody"]["content"]["application/json"];

const encoder = new TextEncoder();
const decoder = new TextDecoder();

/**
 * Asks the core in the page, or the server where it is not there. For what is asked often: a request and a response of the
 * browser's own would cost half as much again as the answer.
 */
export async function ask<N extends keyof Answers>(name: N, body: Body<N>, signal?: AbortSignal): Promise<Answers[N]> {
  const here = await askHere(name, encoder.encode(JSON.stringify(body)), signal);
  if (!here) return answer(api.POST(`/api/v1/${name}` as "/api/v1/solve", { body: body as Body<"solve">, signal })) as Promise<Answers[N]>;
  const said = JSON.parse(decoder.decode(here.answer)) as unknown;
  if (here.status === 200) return said as Answers[N];
  throw new ApiProblem(said as Problem);
}
