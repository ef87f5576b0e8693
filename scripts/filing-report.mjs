import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main, say, Trouble } from "./setup/say.mjs";

/** npm run filing-report: compares ways to guess where mail belongs, and writes docs/filing.md. */
await main(async () => {
  await ensurePackages();
  const folder = mkdtempSync(join(tmpdir(), "tachyne-filing-"));
  try {
    const out = join(folder, "page.md");
    const args = ["--import", "tsx", "tests/filing/report-main.ts", out];
    if (spawnSync(process.execPath, args, { cwd: ROOT, stdio: "inherit" }).status !== 0)
      throw new Trouble("The comparison did not come to its end; its last words are above.");
    const { format, resolveConfig } = await import("prettier");
    const page = join(ROOT, "docs", "filing.md");
    writeFileSync(
      page,
      await format(readFileSync(out, "utf8"), { ...(await resolveConfig(page)), parser: "markdown" }),
    );
    say(`wrote ${page}`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
