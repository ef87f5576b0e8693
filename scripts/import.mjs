import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { join } from "node:path";
import { build } from "./build.mjs";
import { startCluster } from "./setup/cluster.mjs";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main, Trouble } from "./setup/say.mjs";

/** npm run import -- FILE… --folder NAME; TACHYNE_DATA names another data folder than .data. */
await main(async () => {
  await ensurePackages();
  await build();
  const data = process.env.TACHYNE_DATA ?? join(ROOT, ".data");
  if (!process.env.DATABASE_URL && !existsSync(join(data, "postgres")))
    throw new Trouble("There is no mailbox yet. Start one with npm run demo, with --empty for one without demo mail.");
  const url = process.env.DATABASE_URL ?? (await startCluster(data)).url;
  const done = spawnSync(process.execPath, [join(ROOT, "dist", "import.mjs"), ...process.argv.slice(2)], {
    cwd: process.env.INIT_CWD ?? process.cwd(),
    env: { ...process.env, DATABASE_URL: url },
    stdio: "inherit",
  });
  process.exitCode = done.status ?? 1;
});
