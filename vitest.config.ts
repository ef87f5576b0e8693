import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  test: {
    include: ["src/**/*.test.ts", "demo/**/*.test.ts", "tests/{server,rules}/**/*.test.ts"],
    testTimeout: 60_000,
    hookTimeout: 120_000,
    // Each file has a database of its own on the one server: as many at once as the smallest machine has cores.
    maxWorkers: 2,
  },
});
