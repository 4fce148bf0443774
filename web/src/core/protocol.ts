/** What the page and its workers say to each other. */

/** The module, sent once; then questions. */
export type ToWorker = { kind: "module"; module: WebAssembly.Module } | { kind: "ask"; id: number; name: string; request: Uint8Array };

/** `broken` says that the module trapped: the worker is of no use any more. */
export type FromWorker = { id: number; status: number; answer: Uint8Array } | { id: number; broken: string };
