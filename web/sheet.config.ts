import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** One script and one style; `pack.mjs` makes them, and the core, what the program puts into a sheet to be taken along. */
export default defineConfig({
  plugins: [react()],
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
