import { randomBytes } from "node:crypto";
import { spawn, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { build } from "./build.mjs";
import { ensureChromium, launching } from "./setup/browser.mjs";
import { freePort, startCluster } from "./setup/cluster.mjs";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main, say } from "./setup/say.mjs";
import { asCookie, asHeaders, makeLink, signIn } from "./setup/sign-in.mjs";
import { KEPT_OPEN } from "./setup/web.mjs";

/** npm run shots: one current picture of each main view, from the demo data, in docs/screenshots. */
const OUT = join(ROOT, "docs", "screenshots");
const keys =
  (...names) =>
  async (page) => {
    for (const name of names) {
      await page.keyboard.press(name);
      await page.waitForTimeout(120);
    }
  };

const SHOTS = [
  {
    name: "bench",
    path: "/",
    act: keys("j", "j", "f", "j", "d", "j", "i", "j", "j", "i", "j", "v", "t", "j", "c", "j", "i"),
  },
  { name: "sign-in-night", path: "/", dark: true, isOut: true },
  {
    name: "you",
    path: "/you",
    act: async (page) => {
      await page.getByLabel("The new one").fill("seven larches by the lake");
      await page.keyboard.press("Enter");
      await page.getByRole("button", { name: "Ask for codes" }).click();
      await page.getByTestId("code-secret").waitFor();
    },
  },
  {
    name: "pass",
    path: "/",
    act: async (page) => {
      await keys("p")(page);
      await page.waitForTimeout(1500);
      for (const key of ["f", "f", "q", "j", "f", "d", "f"]) {
        await page.keyboard.press(key);
        await page.waitForTimeout(900);
      }
    },
  },
  { name: "places", path: "/places" },
  {
    name: "accounts",
    path: "/accounts",
    act: async (page) => {
      await page.getByRole("button", { name: "Connect an account" }).click();
      await page.keyboard.type("desk@huts.example");
      await page.keyboard.press("Enter");
      await page.getByLabel("Password", { exact: true }).fill("anything");
      await page.getByRole("button", { name: "Try it" }).click();
      await page.getByRole("list", { name: "What the servers said" }).waitFor();
    },
  },
  {
    name: "rules",
    path: "/rules",
    act: async (page) => {
      for (const [narrow, macro] of [
        ["from~ridgenotes", "Archive"],
        ["suspect", "Junk and block"],
        ["attachment", "Archive"],
      ]) {
        await page.getByLabel("Which mail", { exact: true }).fill(narrow);
        await page.getByLabel("What is done", { exact: true }).selectOption({ label: macro });
        await page.getByRole("button", { name: "Make the rule" }).click();
        await page.waitForTimeout(700);
      }
      await page.getByLabel("Rule 3: when").selectOption("sending");
      await page.getByLabel("Rule 3: what is done").selectOption("none");
      await page.getByLabel("Rule 3: what you are asked").fill("A file goes outside. Is it the right one?");
      await page.keyboard.press("Enter");
      await page.getByLabel("to somebody outside").check();
      await page.getByRole("button", { name: "New hours" }).click();
      await page.waitForTimeout(700);
      await page.getByRole("heading", { name: "Rules" }).click();
      await keys("j")(page);
    },
  },
  {
    name: "foresight",
    path: "/",
    act: async (page) => {
      await keys("i", "j", "j", "i")(page);
      await page.keyboard.down("Alt");
      await page.keyboard.down("b");
    },
  },
  {
    name: "workshop",
    path: "/workshop",
    act: async (page) => {
      await page.getByRole("button", { name: "With Shift" }).click();
      await page.locator("[data-pad='KeyC']").click();
      await page.getByLabel("What it would do to").selectOption("sample");
    },
  },
  {
    name: "offline-night",
    path: "/",
    dark: true,
    act: async (page) => {
      await page.evaluate(() => navigator.serviceWorker.ready.then(() => true));
      const texts = () => page.evaluate(async () => (await (await caches.open("tachyne-answers")).keys()).length);
      while ((await texts()) < 50) await page.waitForTimeout(500);
      await page.context().setOffline(true);
      await keys("f", "d", "j", "f", "j", "Enter")(page);
      await page.getByTestId("away").waitFor();
    },
  },
  {
    name: "ledger",
    path: "/ledger",
    act: async (page) => page.locator("[data-entry] button[aria-pressed]").nth(1).click(),
  },
  {
    name: "tasks",
    path: "/tasks",
    act: async (page) => {
      await keys("n")(page);
      for (const line of [
        "ring the helicopter people about the supply flight tomorrow 10 30m !",
        "order gas for Tarn Hut every month",
        "check the stove at Upper Corrie +9d 1h30",
        "look for the lost glove",
        "ask the carpenters for their offer",
      ]) {
        await page.keyboard.insertText(line);
        await page.keyboard.press("Enter");
        await page.waitForTimeout(300);
      }
      await keys("Escape", "5", "Home")(page);
      await keys("n")(page);
      await page.keyboard.insertText("call the ferry office fri 10 20m !");
    },
  },
  {
    name: "agenda",
    path: "/agenda",
    act: async (page) => {
      await page.locator("[data-event]:not([aria-hidden] *)").first().waitFor();
      await keys("ArrowRight", "f")(page);
      await page.getByRole("region", { name: "Proposal" }).waitFor();
    },
  },
  {
    name: "pace",
    path: "/pace",
    act: async (page) => {
      await page.locator("[data-figure] .recharts-surface").first().waitFor();
      await keys("4", "ArrowLeft", "ArrowLeft")(page);
      await page.waitForTimeout(1500);
    },
  },
  {
    name: "composer",
    path: "/",
    act: async (page) => {
      await keys("j", "r")(page);
      await page.keyboard.type("Hello, two beds are free that night. Shall we keep them for you?");
      await page.waitForTimeout(2500);
    },
  },
  { name: "senders-night", path: "/senders", dark: true, act: keys("i", "j", "i", "j") },
  { name: "phone", path: "/", phone: true },
  {
    name: "phone-message",
    path: "/",
    phone: true,
    act: async (page) => {
      await keys("/")(page);
      await page.keyboard.type("invite");
      await page.keyboard.press("Enter");
      await page.locator("[data-place='0']").click();
      await page.getByRole("region", { name: "Invitation" }).waitFor();
    },
  },
  {
    name: "phone-pass",
    path: "/",
    phone: true,
    dark: true,
    act: async (page) => {
      await page.getByRole("button", { name: "Places" }).click();
      await page.getByRole("button", { name: /^Pass of Inbox/ }).click();
      await page.waitForTimeout(1500);
    },
  },
];

await main(async () => {
  await ensurePackages();
  await ensureChromium();
  await build();
  const home = mkdtempSync("/var/tmp/tachyne-shots-");
  const cluster = await startCluster(home);
  const env = {
    ...process.env,
    DATABASE_URL: cluster.url,
    TACHYNE_KEY: randomBytes(32).toString("base64"),
    NODE_ENV: "production",
    NEXT_TELEMETRY_DISABLED: "1",
  };
  const run = (...args) =>
    spawnSync(process.execPath, args, { cwd: ROOT, env, stdio: ["ignore", "ignore", "inherit"] });
  const children = [];
  let browser = null;
  try {
    say("making the demo world");
    const mail = join(home, "mail");
    run("dist/demo.mjs", "--out", mail, "--agenda");
    run("dist/setup.mjs", "src/server/db/migrations", join(mail, "beginning.json"));
    for (const { folder, path } of JSON.parse(readFileSync(join(mail, "files.json"), "utf8")))
      run("dist/import.mjs", path, "--folder", folder, "--quiet");
    run("dist/past.mjs", join(mail, "past.json"));
    const port = await freePort();
    children.push(
      spawn(
        process.execPath,
        ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port), ...KEPT_OPEN],
        {
          cwd: ROOT,
          env,
          stdio: "ignore",
        },
      ),
    );
    children.push(spawn(process.execPath, ["dist/jobs.mjs"], { cwd: ROOT, env, stdio: "ignore" }));
    const address = `http://127.0.0.1:${port}`;
    for (
      let tries = 0;
      tries < 100 &&
      !(await fetch(`${address}/api/v1/health`).then(
        (r) => r.ok,
        () => false,
      ));
      tries++
    )
      await new Promise((r) => setTimeout(r, 200));
    const cookie = await signIn(address, makeLink(env));
    const read = async (path) => (await fetch(`${address}/api/v1${path}`, { headers: asHeaders(cookie) })).json();
    say("waiting until the words are indexed");
    while ((await read("/home")).wordsLeft > 0) await new Promise((r) => setTimeout(r, 500));
    say("waiting until it is learned where mail is filed");
    for (let now = await read("/filing"); now.due > 0 || now.learned === 0; now = await read("/filing"))
      await new Promise((r) => setTimeout(r, 500));
    const { chromium } = await import("@playwright/test");
    browser = await chromium.launch(launching());
    mkdirSync(OUT, { recursive: true });
    for (const { name, path, dark, phone, isOut, act } of SHOTS) {
      const viewport = phone ? { width: 390, height: 844 } : { width: 1280, height: 800 };
      const context = await browser.newContext({ viewport, colorScheme: dark ? "dark" : "light" });
      if (!isOut) await context.addCookies([asCookie(address, cookie)]);
      const page = await context.newPage();
      await page.goto(address + path);
      await page.locator("[data-place], [data-ready], form").first().waitFor();
      // Counts of labels come last of all, when the whole index is there.
      const counts = page.getByLabel("Labels", { exact: true }).locator(".num").filter({ hasText: /\d/ });
      if (!isOut) await counts.first().waitFor({ state: "attached" });
      await act?.(page);
      await page.waitForTimeout(600);
      await page.screenshot({ path: join(OUT, `${name}.png`) });
      await context.close();
      say(name);
    }
  } finally {
    await browser?.close();
    for (const child of children) child.kill("SIGTERM");
    cluster.stop();
    rmSync(home, { recursive: true, force: true });
  }
});
