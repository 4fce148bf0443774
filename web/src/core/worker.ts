/** A worker with the core in it: one question at a time, in the order in which they come. */
import { type Ask, asker } from "./module";
import type { FromWorker, ToWorker } from "./protocol";

let ask: Ask | undefined;

const say = (message: FromWorker, transfer: Transferable[] = []) => self.postMessage(message, { transfer });

self.onmessage = ({ data }: MessageEvent<ToWorker>) => {
  if (data.kind === "module") {
    ask = asker(new WebAssembly.Instance(data.module));
    return;
  }
  try {
    if (!ask) throw new Error("the core is not here yet");
    const start = performance.now();
    const { status, answer } = ask(data.name, data.request);
    say({ id: data.id, status, answer, took: performance.now() - start }, [answer.buffer as ArrayBuffer]);
  } catch (error) {
    // A trap leaves the module's memory in no known state.
    say({ id: data.id, broken: String(error) });
  }
};
