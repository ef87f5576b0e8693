import { createHash } from "node:crypto";
import { existsSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { command, main, say } from "./setup/say.mjs";

const SOURCES = [
  "src",
  "demo",
  "public",
  "package.json",
  "package-lock.json",
  "next.config.ts",
  "postcss.config.mjs",
  "tsconfig.json",
];
const STAMP = join(ROOT, "dist", "built-from");

function* files(path) {
  if (!statSync(path).isDirectory()) return yield path;
  for (const name of readdirSync(path).sort()) yield* files(join(path, name));
}

/** What was built is known by what it was built from, so starting again builds nothing. */
function fingerprint() {
  const hash = createHash("sha256");
  for (const source of SOURCES)
    for (const file of files(join(ROOT, source)))
      if (!/\.test\.tsx?$/.test(file)) hash.update(file.slice(ROOT.length)).update(readFileSync(file));
  return hash.digest("hex");
}

/** The worker that opens the app without a connection knows every file of the build it belongs to. */
async function serviceWorker(bundle) {
  const statics = join(ROOT, ".next", "static");
  const names = [...files(statics)].map((path) => `/_next/static/${path.slice(statics.length + 1)}`);
  await bundle({
    absWorkingDir: ROOT,
    entryPoints: { "service-worker": "src/ui/offline/service-worker.ts" },
    outdir: "dist",
    bundle: true,
    target: "es2022",
    define: {
      BUILD: JSON.stringify(readFileSync(join(ROOT, ".next", "BUILD_ID"), "utf8").trim()),
      FILES: JSON.stringify(names),
    },
    logLevel: "warning",
  });
}

/** Builds the web app and the programs beside it, unless that was done from these very sources. */
export async function build() {
  const wanted = fingerprint();
  const built =
    existsSync(STAMP) && readFileSync(STAMP, "utf8") === wanted && existsSync(join(ROOT, ".next", "BUILD_ID"));
  if (built) return say("the build is up to date");
  rmSync(STAMP, { force: true });
  const { build: bundle } = await import("esbuild");
  say("building the programs");
  await bundle({
    absWorkingDir: ROOT,
    entryPoints: {
      jobs: "src/server/jobs/main.ts",
      import: "src/server/act/import-main.ts",
      "parse-worker": "src/server/parse/parse-worker.ts",
      "sign-in": "src/server/act/sign-in-main.ts",
      setup: "src/server/act/setup-main.ts",
      past: "src/server/act/past-main.ts",
      demo: "demo/main.ts",
    },
    outdir: "dist",
    outExtension: { ".js": ".mjs" },
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    // With all they need in them they start in half the time. What is machine code stays where it was installed.
    external: ["@node-rs/argon2"],
    banner: {
      js: 'import { createRequire as makeRequire } from "node:module"; const require = makeRequire(import.meta.url);',
    },
    sourcemap: true,
    logLevel: "warning",
  });
  const next = join(ROOT, "node_modules", "next", "dist", "bin", "next");
  await command("building the web app (about a minute)", process.execPath, [next, "build"], {
    cwd: ROOT,
    env: { NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production" },
  });
  await serviceWorker(bundle);
  writeFileSync(STAMP, wanted);
}

if (process.argv[1] === new URL(import.meta.url).pathname)
  await main(async () => {
    await ensurePackages();
    await build();
  });
