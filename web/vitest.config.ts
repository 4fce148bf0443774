import { defineConfig } from "vitest/config";

/** The page's plain TypeScript, without a browser: tests stand beside what they test. */
export default defineConfig({ test: { include: ["src/**/*.test.ts"], environment: "node", restoreMocks: true } });
