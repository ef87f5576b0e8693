import { spawn } from "node:child_process";
import { chromium, type BrowserContext, type Page } from "@playwright/test";
import { CHROMIUM } from "../browser/chromium";
import { asCookie, makeLink, signIn } from "../signed-in";
import { agendaFigures } from "./agenda";
import { answeringFigures } from "./answering";
import { FRAME_MS, median, say, type Figure } from "./figures";
import { passFigures } from "./passes";
import { bareList, freePort, hold, memoryOf, once, press, WATCH } from "./page";

const viewport = { width: 1280, height: 800 };
/** What a person is to wait at most: for the first screen, and for the whole index at 100,000 and at a million. */
const FIRST_SCREEN_MS = 1500;
const WHOLE_WARM_MS = { usual: 1500, million: 6000 };
const WHOLE_COLD_MS = { usual: 4000, million: 12_000 };

const TRIES = 3;

/** What is done to some thousands at once, and the narrowing that finds them. */
export interface Thousands {
  readonly what: string;
  readonly narrow: string;
}

interface Opened {
  readonly first: number;
  readonly whole: number;
}

async function opened(page: Page, address: string): Promise<Opened> {
  const start = performance.now();
  await page.goto(address);
  await page.locator("[data-place]").first().waitFor();
  const first = performance.now() - start;
  await page.getByText(/^read [\d,]+ of/).waitFor({ state: "detached", timeout: 300_000 });
  return { first, whole: performance.now() - start };
}

/** Opening a window: with nothing kept in the browser, and with what an earlier visit left. */
async function openings(
  context: BrowserContext,
  address: string,
  messages: number,
): Promise<{ figures: Figure[]; page: Page }> {
  let page = await context.newPage();
  const cold = await opened(page, address);
  // What was read is written to the browser's file system behind the first screen.
  await page.waitForTimeout(3000 + messages / 100);
  const warm: Opened[] = [];
  for (let tries = 0; tries < 3; tries++) {
    await page.close();
    page = await context.newPage();
    warm.push(await opened(page, address));
  }
  const budgetOf = (floorMs: number, when: boolean) => ({
    floor: "the budget itself",
    floorMs,
    budget: when ? 1 : null,
  });
  const million = messages > 500_000;
  const size = million ? "million" : "usual";
  const figures: Figure[] = [
    { what: "first useful screen, cold", ms: cold.first, ...budgetOf(FIRST_SCREEN_MS, false) },
    { what: "first useful screen, warm", ms: median(warm.map((one) => one.first)), ...budgetOf(FIRST_SCREEN_MS, true) },
    { what: "whole index, cold", ms: cold.whole, ...budgetOf(WHOLE_COLD_MS[size], true) },
    { what: "whole index, warm", ms: median(warm.map((one) => one.whole)), ...budgetOf(WHOLE_WARM_MS[size], true) },
  ];
  return { figures, page };
}

/**
 * V (read or unread) on all of a narrowing, from the answer to its question until painted: against closing the
 * question with nothing done, and two frames.
 */
async function onThousands(page: Page, what: string, narrow: string, rows: string): Promise<Figure> {
  await page.keyboard.press("/");
  await page.keyboard.type(narrow);
  await page.keyboard.press("Enter");
  await page.waitForTimeout(1000);
  const answer = async (key: string) => {
    await page.keyboard.press("Control+a");
    await page.keyboard.press("v");
    await page.getByRole("dialog").waitFor();
    await page.waitForTimeout(500);
    return once(page, key);
  };
  const listed = (await page.getByTestId("count").innerText()).replace(/ .*/, "");
  const closing: number[] = [];
  const running: number[] = [];
  for (let tries = 0; tries < TRIES; tries++) {
    closing.push(await answer("Escape"));
    running.push(await answer("Enter"));
    await page.waitForTimeout(3000);
    await page.keyboard.press("u");
    await page.waitForTimeout(3000);
  }
  await page.keyboard.press(",");
  await page.waitForTimeout(500);
  return {
    what: `${what} ${listed} of ${rows} until painted`,
    ms: median(running),
    floor: "closing the question, and two frames",
    floorMs: median(closing) + 2 * FRAME_MS,
    budget: 1,
  };
}

/** A key until it is painted, and frames while it is held; on the whole mailbox, and on ten thousand at once. */
async function keys(
  page: Page,
  rows: string,
  thousands: readonly Thousands[],
  floorMs: number,
  heldFloorMs: { readonly j: number; readonly pageDown: number },
): Promise<Figure[]> {
  await page.keyboard.press(",");
  await page.waitForTimeout(1500);
  await page.evaluate(WATCH);
  const floor = { floor: "a bare list", floorMs, budget: 1.15 };
  const held = (floorMs: number) => ({ floor: "a bare list", floorMs, budget: 1.15 });
  const figures: Figure[] = [
    { what: `J until painted, ${rows} rows`, ms: await press(page, "j"), ...floor },
    { what: `F (read, archive) until painted, ${rows} rows`, ms: await press(page, "f"), ...floor },
    { what: `J held, frames apart (95 %), ${rows} rows`, ms: await hold(page, "j"), ...held(heldFloorMs.j) },
    {
      what: `PageDown held, frames apart (95 %), ${rows} rows`,
      ms: await hold(page, "PageDown"),
      ...held(heldFloorMs.pageDown),
    },
  ];
  for (const { what, narrow } of thousands) figures.push(await onThousands(page, what, narrow, rows));
  return figures;
}

/**
 * What a person waits for: the first screen, and a key until it is painted.
 * @param thousands narrowings that some ten thousand messages match
 */
export async function browserFigures(
  databaseUrl: string,
  messages: number,
  thousands: readonly Thousands[],
): Promise<{ figures: Figure[]; notes: string[] }> {
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
    const bare = await browser.newPage({ viewport });
    await bare.setContent(bareList(messages));
    await bare.evaluate(WATCH);
    const floorMs = await press(bare, "j");
    const heldMs = { j: await hold(bare, "j"), pageDown: await hold(bare, "PageDown") };
    await bare.close();
    const context = await browser.newContext({ viewport });
    await context.addCookies([asCookie(address, await signIn(address, makeLink(env)!))]);
    const { figures, page } = await openings(context, address, messages);
    const cdp = await page.context().newCDPSession(page);
    const before = await memoryOf(cdp);
    figures.push(...(await keys(page, messages.toLocaleString("en"), thousands, floorMs, heldMs)));
    figures.push(...(await answeringFigures(browser, page)));
    figures.push(...(await passFigures(page, thousands[0]!.narrow, floorMs)));
    figures.push(...(await agendaFigures(page.context(), address, floorMs)));
    const after = await memoryOf(cdp);
    const megabytes = (n: number) => `${n.toFixed(0)} MB`;
    const notes = [
      `Memory of the window: ${megabytes(before.objects)} of objects and ${megabytes(before.buffers)} of buffers once the index is there; ` +
        `${megabytes(after.objects)} and ${megabytes(after.buffers)} after some 340 keys and six runs on thousands, taken back.`,
    ];
    return { figures, notes };
  } finally {
    await browser.close();
    server.kill("SIGTERM");
  }
}
