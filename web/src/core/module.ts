/** The core as a module: the few functions that it exports, and one question asked through them. */

interface Exports {
  memory: WebAssembly.Memory;
  room: (bytes: number) => number;
  ask: (name: number) => number;
  answer: () => number;
  answer_len: () => number;
}

const encoder = new TextEncoder();

/** Answers a question by name: 200 and the answer, or the status of a refusal and its problem. */
export type Ask = (name: string, request: Uint8Array) => { status: number; answer: Uint8Array };

/** The questions of an instance of the module, which imports nothing. */
export function asker(instance: WebAssembly.Instance): Ask {
  const core = instance.exports as unknown as Exports;
  return (name, request) => {
    const word = encoder.encode(name);
    const at = core.room(word.length + request.length);
    // The memory may have moved: it is looked at anew after every call.
    const room = new Uint8Array(core.memory.buffer, at, word.length + request.length);
    room.set(word);
    room.set(request, word.length);
    const status = core.ask(word.length);
    return { status, answer: new Uint8Array(core.memory.buffer, core.answer(), core.answer_len()).slice() };
  };
}
