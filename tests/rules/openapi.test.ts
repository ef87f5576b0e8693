import { readdirSync } from "node:fs";
import { expect, test } from "vitest";
import { openApi } from "@/app/api/http/openapi";

const document = JSON.parse(JSON.stringify(openApi())) as {
  paths: Record<string, object>;
  components: Record<"schemas" | "responses", Record<string, object>>;
};

test("every reference in the API's description leads somewhere, and the whole of it is of a size to read", () => {
  const text = JSON.stringify(document);
  const refs = [...text.matchAll(/"\$ref":"([^"]+)"/g)].map((found) => found[1]!);
  expect(refs.length).toBeGreaterThan(0);
  for (const ref of new Set(refs)) {
    const [, kind, name] = /^#\/components\/(schemas|responses)\/(\w+)$/.exec(ref) ?? [];
    expect(kind && document.components[kind as "schemas" | "responses"][name!], ref).toBeDefined();
  }
  expect(text.length).toBeLessThan(400_000);
});

test("every route is described, but for the interface's own binary ones and the description itself", () => {
  const folder = new URL("../../src/app/api/v1", import.meta.url).pathname;
  const routes = readdirSync(folder, { recursive: true, encoding: "utf8" })
    .filter((path) => path.endsWith("route.ts"))
    .map((path) => `/${path.replace(/\/route\.ts$/, "").replace(/\[(\w+)\]/g, "{$1}")}`);
  const described = Object.keys(document.paths);
  expect(routes.filter((path) => !described.includes(path)).sort()).toEqual([
    "/index",
    "/openapi.json",
    "/tasks/open",
    "/words",
  ]);
});
