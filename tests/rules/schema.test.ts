import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { packJsonSchema } from "@/core/pack";

test("the published schema of macro packs is the one packs are read with (npm run schema writes it)", () => {
  const published = JSON.parse(
    readFileSync(new URL("../../docs/macro-pack.schema.json", import.meta.url), "utf8"),
  ) as object;
  expect(published).toEqual(JSON.parse(JSON.stringify(packJsonSchema())));
});
