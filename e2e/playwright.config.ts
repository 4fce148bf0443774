import { defineConfig } from "@playwright/test";

/** The server is started by the Rust test that runs this; its address comes in the environment. */
export default defineConfig({
  testDir: "tests",
  outputDir: "results",
  workers: 1,
  retries: 0,
  reporter: "line",
  // A machine that is busy with something else is slow, not wrong.
  timeout: 120_000,
  expect: { timeout: 20_000 },
  use: {
    baseURL: process.env.ORTHAVIS_URL,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-background-networking"] },
    // Each test opens the page as for the first time; what starts it without a server has a test of its own.
    serviceWorkers: "block",
    // Writing down every step takes time; who looks for a fault asks for it: `ORTHAVIS_TRACE=1`.
    trace: process.env.ORTHAVIS_TRACE ? "retain-on-failure" : "off",
  },
});
