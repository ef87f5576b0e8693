import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "tests/browser",
  testMatch: "*.spec.ts",
  globalSetup: "./tests/browser/prepare.ts",
  // Two cores: one browser and one app at a time.
  workers: 1,
  timeout: 90_000,
  expect: { timeout: 10_000 },
  reporter: [["list"], ["json"]],
  outputDir: "test-results",
});
