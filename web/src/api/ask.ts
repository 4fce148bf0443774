import { type Problem, ApiProblem, answer, api } from "./client";
import type { paths } from "./schema";
import { askAtOnce, askHere } from "../core/transport";

/** Questions that are asked at every keystroke or with every step of a slider. */
export type Often = "verdict" | "solve" | "remedies" | "what-if" | "pinch" | "circuit/view" | "night" | "night/scenery";

/** What a question is asked with. */
export type Question<N extends Often> = paths[`/api/v1/${N}`]["post"]["requestBody"]["content"]["application/json"];
/** What it is answered with. */
export type Answer<N extends Often> = paths[`/api/v1/${N}`]["post"]["responses"][200]["content"]["application/json"];

const encoder = new TextEncoder();
const decoder = new TextDecoder();

/**
 * Asks the core in the page, or the server where it is not there. For what is asked often: a request and a response of the
 * browser's own would cost half as much again as the answer.
 */
export async function ask<N extends Often>(name: N, body: Question<N>, signal?: AbortSignal): Promise<Answer<N>> {
  const here = await askHere(name, encoder.encode(JSON.stringify(body)), signal);
  if (!here) return answer(api.POST(`/api/v1/${name}` as "/api/v1/solve", { body: body as Question<"solve">, signal })) as Promise<Answer<N>>;
  return read(here);
}

/**
 * The same before the event that asks ends; `null` where it may take longer, or the core is not here. `like` is a question
 * whose answer takes no less time. Throws the problem of a refusal.
 */
export function askNow<N extends Often>(name: N, body: Question<N>, like?: Often): Answer<N> | null {
  const here = askAtOnce(name, encoder.encode(JSON.stringify(body)), like);
  return here && read(here);
}

function read<T>({ status, answer }: { status: number; answer: Uint8Array }): T {
  const said = JSON.parse(decoder.decode(answer)) as unknown;
  if (status === 200) return said as T;
  throw new ApiProblem(said as Problem);
}
