import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "tests/browser",
  testMatch: "*.spec.ts",
  globalSetup: "./tests/browser/prepare.ts",
  // Two cores: one browser and one app at a time. Two at once take longer in all, since browsers draw by software.
  workers: 1,
  timeout: 240_000,
  // Whatever is looked for comes soon or never; a busy machine is no fault of the app's.
  expect: { timeout: 45_000 },
  use: { actionTimeout: 45_000 },
  reporter: [["list"], ["json"]],
  outputDir: "test-results",
});
