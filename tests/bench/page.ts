import { createServer } from "node:net";
import type { CDPSession, Page } from "@playwright/test";
import { median } from "./figures";

const PRESSES = 80;
const BETWEEN_MS = 45;
/** At sixty a second, and whole. */
const FRAME_MS = 17;
/** A held key repeats about so often. */
const REPEAT_MS = 33;
const REPEATS = 90;

export const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

/** Notes in the page how long each key took from the stroke until its frame was painted, and how far frames are apart. */
export const WATCH = `(() => {
  window.took = [];
  window.frames = [];
  addEventListener("keydown", (event) => requestAnimationFrame(() => {
    const channel = new MessageChannel();
    channel.port1.onmessage = () => window.took.push(performance.now() - event.timeStamp);
    channel.port2.postMessage(0);
  }), true);
  let last = performance.now();
  const frame = (now) => { window.frames.push(now - last); last = now; requestAnimationFrame(frame); };
  requestAnimationFrame(frame);
})()`;

const reset = (page: Page) => page.evaluate("window.took.length = 0; window.frames.length = 0");

/** Presses a key again and again. @returns the median of the times until it was painted, ms */
export async function press(page: Page, key: string, presses = PRESSES): Promise<number> {
  await reset(page);
  for (let i = 0; i < presses; i++) {
    await page.keyboard.press(key);
    // At every time between two frames: else all wait for theirs as long as chance has it, in this run.
    await page.waitForTimeout(BETWEEN_MS + ((i * 7) % FRAME_MS));
  }
  // The first ones find code that has not been compiled yet, in the floor as in the app.
  return median(((await page.evaluate("window.took")) as number[]).slice(10));
}

/** Presses a key once. @returns until it was painted, ms */
export async function once(page: Page, key: string): Promise<number> {
  await reset(page);
  await page.keyboard.press(key);
  for (;;) {
    const took = (await page.evaluate("window.took")) as number[];
    if (took.length > 0) return took[0]!;
    await page.waitForTimeout(BETWEEN_MS);
  }
}

/** Presses a key, and waits until something holds in the page. @returns from the stroke until that was painted, ms */
export async function until(page: Page, key: string, holds: string): Promise<number> {
  await page.evaluate(`(() => {
    window.until = null;
    addEventListener("keydown", (event) => {
      const look = () => {
        if (!(${holds})) return requestAnimationFrame(look);
        const channel = new MessageChannel();
        channel.port1.onmessage = () => (window.until = performance.now() - event.timeStamp);
        channel.port2.postMessage(0);
      };
      requestAnimationFrame(look);
    }, { capture: true, once: true });
  })()`);
  await page.keyboard.press(key);
  // The app's pages evaluate no text by themselves: it is asked for from outside, and seldom.
  for (;;) {
    const took = (await page.evaluate("window.until")) as number | null;
    if (took !== null) return took;
    await page.waitForTimeout(BETWEEN_MS);
  }
}

/** Whether the caret is in a text that can be written. */
export const WRITES = `document.activeElement?.matches("[contenteditable=true]")`;

/** The floor for composing: a key makes an empty text and puts the caret in. */
export const BARE_EDITOR = `<!doctype html><body><script>
  addEventListener("keydown", (event) => {
    event.preventDefault();
    document.body.innerHTML = '<div contenteditable=true role=textbox style="min-height:160px"></div>';
    document.body.firstChild.focus();
  });
</script>`;

/** Holds a key as a keyboard repeats it. @returns how far apart frames were, of a hundred the fifth slowest, ms */
export async function hold(page: Page, key: string): Promise<number> {
  await reset(page);
  for (let i = 0; i < REPEATS; i++) {
    await page.keyboard.down(key);
    await page.waitForTimeout(REPEAT_MS);
  }
  await page.keyboard.up(key);
  const frames = ((await page.evaluate("window.frames")) as number[]).slice(10).sort((a, b) => a - b);
  return frames[Math.floor(frames.length * 0.95)]!;
}

/** What the page holds, in megabytes: JavaScript objects, and buffers such as the index. */
export async function memoryOf(cdp: CDPSession): Promise<{ objects: number; buffers: number }> {
  await cdp.send("HeapProfiler.collectGarbage");
  const usage = (await cdp.send("Runtime.getHeapUsage")) as { usedSize: number; backingStorageSize?: number };
  return { objects: usage.usedSize / 1e6, buffers: (usage.backingStorageSize ?? 0) / 1e6 };
}

/** The floor: nothing but a list of as many rows, of which only those in sight exist, and a focus that moves. */
export const bareList = (rows: number) => `<!doctype html><style>
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
  addEventListener("keydown", (event) => {
    event.preventDefault();
    focus += event.key === "PageDown" ? Math.floor(box.clientHeight / 30) : 1;
    const low = focus * 30 + 60 - box.clientHeight;
    if (box.scrollTop < low) box.scrollTop = low;
    draw();
  });
</script>`;

/** The floor of what turns: so many boxes on seven days, each time others in other places, and nothing else. */
export const bareWeek = (boxes: number) => `<!doctype html><style>
  #box { display: grid; grid-template-columns: repeat(7, 1fr); height: 1056px; width: 900px; font: 12px sans-serif }
  #box > div { position: relative; border-left: 1px solid #ddd }
  #box > div > div { position: absolute; left: 1px; right: 2px; overflow: hidden; border-top: 3px solid #364; background: #eee }
  b, i { display: block; overflow: hidden; white-space: nowrap }
</style><div id=box tabindex=0></div><script>
  let week = 0;
  const draw = () => {
    box.innerHTML = Array.from({ length: 7 }, (_, day) => '<div>' + Array.from({ length: Math.ceil((${boxes} - day) / 7) }, (_, n) =>
      '<div style="top:' + (7 + (n * 7 + week + day) % 12) * 44 + 'px;height:' + (22 + n % 4 * 11) + 'px"><b>Inspection '
      + (week * ${boxes} + day * 7 + n) + '</b><i>' + (7 + n) + ':00</i></div>').join("") + '</div>').join("");
  };
  draw();
  box.focus();
  addEventListener("keydown", (event) => {
    event.preventDefault();
    week++;
    draw();
  });
</script>`;
