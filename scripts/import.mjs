import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { build } from "./build.mjs";
import { ownDatabase } from "./setup/own-database.mjs";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main } from "./setup/say.mjs";

/** npm run import -- FILE… --folder NAME; TACHYNE_DATA names another data folder than .data. */
await main(async () => {
  await ensurePackages();
  await build();
  const url = await ownDatabase();
  const done = spawnSync(process.execPath, [join(ROOT, "dist", "import.mjs"), ...process.argv.slice(2)], {
    cwd: process.env.INIT_CWD ?? process.cwd(),
    env: { ...process.env, DATABASE_URL: url },
    stdio: "inherit",
  });
  process.exitCode = done.status ?? 1;
});
