import { spawn } from "node:child_process";
import { createServer } from "node:net";
import { chromium, type Page } from "@playwright/test";
import { CHROMIUM } from "../browser/chromium";
import { median, say, type Figure } from "./figures";

const PRESSES = 80;
const BETWEEN_MS = 45;
/** The first useful screen has to be there within this. */
const FIRST_SCREEN_MS = 1500;

const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

/** Notes in the page how long each key took from the stroke until its frame was painted. */
const WATCH = `(() => {
  window.took = [];
  addEventListener("keydown", (event) => requestAnimationFrame(() => {
    const channel = new MessageChannel();
    channel.port1.onmessage = () => window.took.push(performance.now() - event.timeStamp);
    channel.port2.postMessage(0);
  }), true);
})()`;

async function press(page: Page, key: string): Promise<number> {
  await page.evaluate("window.took.length = 0");
  for (let i = 0; i < PRESSES; i++) {
    await page.keyboard.press(key);
    await page.waitForTimeout(BETWEEN_MS);
  }
  // The first ones find code that has not been compiled yet, in the floor as in the app.
  return median(((await page.evaluate("window.took")) as number[]).slice(10));
}

/** The floor: nothing but a list of as many rows, of which only those in sight exist, and a focus that moves. */
const bareList = (rows: number) => `<!doctype html><style>
  #box { position: relative; height: 580px; width: 680px; overflow-y: auto; font: 13.5px sans-serif }
  .row { position: absolute; left: 0; right: 0; height: 30px; display: grid; white-space: nowrap; overflow: hidden;
    grid-template-columns: 20px 20px 38px 138px 1fr auto; gap: 8px; border-bottom: 1px solid #ddd }
  .on { box-shadow: inset 0 0 0 2px #000 }
</style><div id=box tabindex=0><div id=all style="height:${rows * 30}px"></div></div><script>
  let focus = 0;
  const draw = () => {
    const first = Math.max(0, Math.floor(box.scrollTop / 30) - 12);
    all.innerHTML = Array.from({ length: 44 }, (_, i) => first + i).map((n) =>
      '<div class="row' + (n === focus ? ' on' : '') + '" style="top:' + n * 30 + 'px"><span></span><span></span><span>' + n % 60
      + 'd</span><b>Sender ' + n + '</b><span>Subject of ' + n + ' and the beginning of its text</span><span>Folder</span></div>').join("");
  };
  draw();
  box.focus();
  addEventListener("keydown", () => {
    focus++;
    const low = focus * 30 + 60 - box.clientHeight;
    if (box.scrollTop < low) box.scrollTop = low;
    draw();
  });
</script>`;

/** What a person waits for: the first screen, and a key until it is painted. */
export async function browserFigures(databaseUrl: string, messages: number): Promise<Figure[]> {
  say("the browser");
  const port = await freePort();
  const env = { ...process.env, DATABASE_URL: databaseUrl, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" };
  const args = ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port)];
  const server = spawn(process.execPath, args, { env: env as NodeJS.ProcessEnv, stdio: "ignore" });
  const address = `http://127.0.0.1:${port}`;
  const browser = await chromium.launch(CHROMIUM);
  try {
    for (let tries = 0; tries < 100; tries++) {
      const up = await fetch(`${address}/api/v1/health`).then(
        (answer) => answer.ok,
        () => false,
      );
      if (up) break;
      await new Promise((done) => setTimeout(done, 200));
    }
    const viewport = { width: 1280, height: 800 };
    const bare = await browser.newPage({ viewport });
    await bare.setContent(bareList(messages));
    await bare.evaluate(WATCH);
    const floorMs = await press(bare, "j");
    await bare.close();

    const screens: number[] = [];
    const context = await browser.newContext({ viewport });
    let page = await context.newPage();
    for (let tries = 0; tries < 4; tries++) {
      await page.close();
      page = await context.newPage();
      const start = performance.now();
      await page.goto(address);
      await page.locator("[data-place]").first().waitFor();
      screens.push(performance.now() - start);
      await page.getByText(/^read [\d,]+ of/).waitFor({ state: "detached", timeout: 120_000 });
    }
    // The whole mailbox in the list.
    await page.keyboard.press(",");
    await page.waitForTimeout(1000);
    await page.evaluate(WATCH);
    const walking = await press(page, "j");
    const deciding = await press(page, "f");
    const floor = { floor: "a bare list", floorMs, budget: 1.25 };
    const rows = `${messages.toLocaleString("en")} rows`;
    return [
      // The first opening finds nothing in the browser's cache.
      {
        what: "first useful screen, warm",
        ms: median(screens.slice(1)),
        floor: "the budget itself",
        floorMs: FIRST_SCREEN_MS,
        budget: 1,
      },
      { what: `J until painted, ${rows}`, ms: walking, ...floor },
      { what: `F (read, archive) until painted, ${rows}`, ms: deciding, ...floor },
    ];
  } finally {
    await browser.close();
    server.kill("SIGTERM");
  }
}
