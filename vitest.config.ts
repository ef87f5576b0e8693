import { defineConfig } from "vitest/config";

const inFolders = (...folders: string[]) => folders.map((folder) => `${folder}/**/*.test.ts`);

export default defineConfig({
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  test: {
    testTimeout: 60_000,
    hookTimeout: 120_000,
    // Each file has a database of its own on the one server: as many at once as the smallest machine has cores.
    maxWorkers: 2,
    projects: [
      // What keeps nothing between two calls needs no process of its own for each file: half the time is theirs.
      { extends: true, test: { name: "core", include: inFolders("src/core", "demo"), isolate: false } },
      {
        extends: true,
        test: { name: "rest", include: ["src/*.test.ts", ...inFolders("src/!(core)", "tests/{server,rules}")] },
      },
    ],
  },
});
