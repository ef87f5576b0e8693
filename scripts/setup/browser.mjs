import { existsSync } from "node:fs";
import { installDebian } from "./packages.mjs";
import { say } from "./say.mjs";

/** Debian's Chromium: rather the build without windows, which takes half as much of a processor for the same page. */
const [WITHOUT_WINDOWS, WHOLE] = ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"];

/** The browser that tests, pictures and benchmarks drive. */
export async function ensureChromium() {
  if (existsSync(WITHOUT_WINDOWS)) return;
  try {
    await installDebian(["chromium-headless-shell"], "Chromium, to drive the interface");
  } catch (trouble) {
    if (!existsSync(WHOLE)) throw trouble;
    say("the whole Chromium that is there does as well");
  }
}

/** How it is started: told to ask nobody outside for anything. */
export const launching = () => ({
  executablePath: existsSync(WITHOUT_WINDOWS) ? WITHOUT_WINDOWS : WHOLE,
  args: [
    "--no-sandbox",
    "--disable-dev-shm-usage",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
});
