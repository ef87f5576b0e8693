import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main, say } from "./setup/say.mjs";

/** npm run schema: writes docs/macro-pack.schema.json from the shape that packs are read with. */
await main(async () => {
  await ensurePackages();
  const { build } = await import("esbuild");
  const folder = mkdtempSync(join(tmpdir(), "tachyne-schema-"));
  const outfile = join(folder, "pack.mjs");
  await build({
    absWorkingDir: ROOT,
    entryPoints: ["src/core/pack/index.ts"],
    outfile,
    bundle: true,
    platform: "node",
    format: "esm",
    logLevel: "warning",
  });
  const { packJsonSchema } = await import(outfile);
  rmSync(folder, { recursive: true });
  const { format, resolveConfig } = await import("prettier");
  const page = join(ROOT, "docs", "macro-pack.schema.json");
  writeFileSync(
    page,
    await format(JSON.stringify(packJsonSchema()), { ...(await resolveConfig(page)), parser: "json" }),
  );
  say(`wrote ${page}`);
});
