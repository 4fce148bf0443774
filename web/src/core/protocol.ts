/** What the page and its workers say to each other. */

/** The module, sent once; then questions. */
export type ToWorker = { kind: "module"; module: WebAssembly.Module } | { kind: "ask"; id: number; name: string; request: Uint8Array };

/** `took` is the module's own time, ms; `broken` says that it trapped: the worker is of no use any more. */
export type FromWorker = { id: number; status: number; answer: Uint8Array; took: number } | { id: number; broken: string };
