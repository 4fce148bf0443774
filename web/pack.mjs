/**
 * Packs what the program puts into a sheet to be taken along: the script by what every browser unpacks by itself, the core,
 * most of a sheet, a third tighter.
 */
import { existsSync, readFileSync, unlinkSync, writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import { compress, init } from "@bokuweb/zstd-wasm";

const here = (path) => new URL(path, import.meta.url);
const sheet = "dist/sheet/";
const core = here("public/core.wasm");

const script = here(`${sheet}sheet.js`);

// Packed it is all that is needed of it.
if (existsSync(script)) {
  writeFileSync(here(`${sheet}sheet.js.gz`), gzipSync(readFileSync(script), { level: 9 }));
  unlinkSync(script);
}
if (existsSync(core)) {
  await init();
  writeFileSync(here(`${sheet}core.wasm.zst`), compress(readFileSync(core), 19));
}
