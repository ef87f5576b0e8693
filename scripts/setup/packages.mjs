import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { command, say, Trouble } from "./say.mjs";

export const ROOT = new URL("../..", import.meta.url).pathname.replace(/\/$/, "");

/** Installs the npm packages of the lock file, unless exactly these are there. */
export async function ensurePackages() {
  const lock = readFileSync(join(ROOT, "package-lock.json"));
  const wanted = createHash("sha256")
    .update(lock)
    .update(readFileSync(join(ROOT, "package.json")))
    .digest("hex");
  const stamp = join(ROOT, "node_modules", ".tachyne-lock");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === wanted) return;
  // "npm ci" fails where a registry lacks other platforms' binaries; "install" may trim the lock, so it is put back.
  try {
    await command(
      "installing packages (about two minutes the first time)",
      "npm",
      ["install", "--no-audit", "--no-fund"],
      {
        cwd: ROOT,
        advice: "Is the npm registry reachable? Run the command again: it goes on where it stopped.",
      },
    );
  } finally {
    writeFileSync(join(ROOT, "package-lock.json"), lock);
  }
  mkdirSync(join(ROOT, "node_modules"), { recursive: true });
  writeFileSync(stamp, wanted);
  say("packages are there");
}

/** Runs Debian's package installer, as root or through sudo. */
export async function installDebian(packages, why) {
  const root = process.getuid() === 0;
  const advice = `Tachyne needs ${why}. Install it yourself with: apt-get install ${packages.join(" ")}`;
  if (!existsSync("/usr/bin/apt-get"))
    throw new Trouble(`${advice}\n(No apt-get here: this needs Debian, or your own server through DATABASE_URL.)`);
  const run = (title, args) =>
    command(title, root ? "apt-get" : "sudo", root ? args : ["-n", "apt-get", ...args], {
      env: { DEBIAN_FRONTEND: "noninteractive" },
      advice,
    });
  await run("reading Debian's package lists", ["update", "-qq"]);
  await run(`installing ${packages.join(", ")}`, ["install", "-y", "-qq", "--no-install-recommends", ...packages]);
}
