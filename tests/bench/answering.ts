import type { Browser, Page } from "@playwright/test";
import { FRAME_MS, median, type Figure } from "./figures";
import { BARE_EDITOR, until, WRITES } from "./page";

const TRIES = 12;
/** Stored drafts and reports of what was sent come behind; they are not what is measured. */
const SETTLES_MS = 1500;

const COMPOSER = `document.querySelector('[aria-label="Composer"]')`;

/** A key until one can type an answer, and sending it until the next message is there. */
export async function answeringFigures(browser: Browser, page: Page): Promise<Figure[]> {
  const bare = await browser.newPage();
  const floors: number[] = [];
  for (let tries = 0; tries < TRIES; tries++) {
    await bare.setContent(BARE_EDITOR);
    floors.push(await until(bare, "r", WRITES));
  }
  await bare.close();
  const opens: number[] = [];
  const sends: number[] = [];
  for (let tries = 0; tries < TRIES; tries++) {
    opens.push(await until(page, "r", WRITES));
    await page.keyboard.type("Gladly.");
    await page.getByTestId("saved").filter({ hasText: "stored" }).waitFor();
    await page.waitForTimeout(SETTLES_MS);
    sends.push(await until(page, "Control+Enter", `${COMPOSER} === null && document.querySelector("[data-focused]")`));
    await page.waitForTimeout(SETTLES_MS);
    await page.keyboard.press("j");
  }
  // The first ones find code that has not been compiled yet, in the floor as in the app.
  const usual = (all: readonly number[]) => median(all.slice(2));
  return [
    {
      what: "R until one can type an answer",
      ms: usual(opens),
      floor: "an empty text and the caret in it",
      floorMs: usual(floors),
      budget: null,
    },
    {
      what: "sending until the next message is shown",
      ms: usual(sends),
      floor: "two frames: of the key and of what it shows",
      floorMs: 2 * FRAME_MS,
      budget: 1,
    },
  ];
}
