import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: { target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
  // The page may run without the binary while it is worked on; the API still comes from it.
  // The drawings of the vehicles are the core's files.
  server: { fs: { allow: [".."] }, proxy: { "/api": { target: "http://127.0.0.1:7417", changeOrigin: true } } },
});
