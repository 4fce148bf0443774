import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const here = (path: string) => new URL(path, import.meta.url);

/** One script, one style and the core, packed: what the program puts into a sheet to be taken along. */
export default defineConfig({
  plugins: [
    react(),
    {
      name: "pack-the-core",
      closeBundle() {
        const core = here("public/core.wasm");
        if (existsSync(core)) writeFileSync(here("dist/sheet/core.wasm.gz"), gzipSync(readFileSync(core), { level: 9 }));
      },
    },
  ],
  publicDir: false,
  build: {
    target: "es2022",
    outDir: "dist/sheet",
    emptyOutDir: true,
    // A page of its own has nothing beside it: the font goes into the style.
    assetsInlineLimit: 100_000,
    cssCodeSplit: false,
    modulePreload: false,
    lib: { entry: "src/sheet/main.tsx", formats: ["iife"], name: "sheet", fileName: () => "sheet.js", cssFileName: "sheet" },
  },
  define: { "process.env.NODE_ENV": '"production"' },
});
