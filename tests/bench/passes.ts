import type { Page } from "@playwright/test";
import type { Figure } from "./figures";
import { until } from "./page";

const DECISIONS = 60;
/** A practised hand decides no faster. */
const BETWEEN_MS = 250;

/**
 * In a pass over some thousands: a decision until the next message is painted with its text.
 * @param floorMs a key of a bare list until it is painted
 */
export async function passFigures(page: Page, narrow: string, floorMs: number): Promise<Figure[]> {
  await page.keyboard.press("/");
  await page.keyboard.type(narrow);
  await page.keyboard.press("Enter");
  await page.waitForTimeout(1000);
  await page.keyboard.press("p");
  await page.getByTestId("pass-counts").waitFor();
  await page.waitForTimeout(3000);
  const took: number[] = [];
  for (let n = 0; n < DECISIONS; n++) {
    const before = await page.locator("[data-focused]").getAttribute("data-id");
    const read = `document.querySelector("[data-read]")?.dataset.read`;
    took.push(
      await until(
        page,
        "f",
        `${read} !== ${JSON.stringify(before)} && ${read} === document.querySelector("[data-focused]")?.dataset.id`,
      ),
    );
    await page.waitForTimeout(BETWEEN_MS);
  }
  const of = (await page.getByTestId("pass-counts").innerText()).match(/[\d,]+ to go/)![0];
  await page.keyboard.press("p");
  const sorted = took.slice(5).sort((a, b) => a - b);
  return [
    {
      what: `pass, ${of}: a decision until the next text is painted (95 %)`,
      ms: sorted[Math.floor(sorted.length * 0.95)]!,
      floor: "a bare list",
      floorMs,
      budget: null,
    },
  ];
}
