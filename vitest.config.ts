import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  test: {
    include: ["src/**/*.test.ts", "demo/**/*.test.ts", "tests/{server,rules}/**/*.test.ts"],
    testTimeout: 60_000,
    hookTimeout: 120_000,
    // One database server and two cores: files one after another, so that none waits for another.
    fileParallelism: false,
  },
});
