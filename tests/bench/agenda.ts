import type { BrowserContext, Page } from "@playwright/test";
import { median, type Figure } from "./figures";
import { bareWeek, press, until, WATCH } from "./page";

const EVENTS = 20_000;
const YEARS = 10;
const DAY_MS = 86_400_000;
const A_WEEK = Math.round(EVENTS / (YEARS * 52));

/** Events of some years about today as iCalendar, by day from seven to seven. */
function eventsText(): string {
  const from = Date.now() - (YEARS / 2) * 365 * DAY_MS;
  const events = Array.from({ length: EVENTS }, (_, i) => {
    const at = new Date(from + (i / EVENTS) * YEARS * 365 * DAY_MS);
    at.setUTCHours(7 + ((i * 7) % 12), (i % 4) * 15, 0, 0);
    const stamp = at.toISOString().replace(/[-:]/g, "").slice(0, 15);
    return `BEGIN:VEVENT\r\nUID:bench-${i}@larchhuts.example\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:${stamp}Z\r\nDURATION:PT${30 + (i % 4) * 15}M\r\nSUMMARY:Inspection ${i}\r\nEND:VEVENT`;
  });
  return `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//bench//\r\n${events.join("\r\n")}\r\nEND:VCALENDAR\r\n`;
}

const TURNS = 15;

/** Turns a week, until the hours are those of other days. @returns the median, ms */
async function turned(page: Page): Promise<number> {
  const times: number[] = [];
  for (let n = 0; n < TURNS; n++) {
    const day = await page.locator("[data-seen] [data-day]").first().getAttribute("data-day");
    times.push(
      await until(page, "ArrowLeft", `document.querySelector("[data-seen] [data-day]").dataset.day !== "${day}"`),
    );
    await page.waitForTimeout(200);
  }
  return median(times);
}

/** Keys of the agenda over a calendar that holds 20,000 events: a week of them is on the screen. */
export async function agendaFigures(context: BrowserContext, address: string, floorMs: number): Promise<Figure[]> {
  const api = `${address}/api/v1/calendars`;
  const [calendar] = (await (await context.request.get(api)).json()) as { id: number }[];
  const taken = await context.request.post(`${api}/${calendar!.id}/ics`, { data: eventsText() });
  if (!taken.ok()) throw new Error(await taken.text());
  const page = await context.newPage();
  await page.setContent(bareWeek(A_WEEK));
  await page.evaluate(WATCH);
  const turningFloor = {
    floor: `a bare week of ${A_WEEK} boxes`,
    floorMs: await press(page, "ArrowRight"),
    budget: null,
  };
  // Before the app listens: some keys go no further than to it.
  await page.addInitScript(WATCH);
  await page.goto(`${address}/agenda`);
  await page.locator("main[data-ready] [data-seen] [data-event]").first().waitFor();
  const floor = { floor: "a bare list", floorMs, budget: null };
  const turning = await press(page, "ArrowRight");
  await page.waitForTimeout(2000);
  const filling = await turned(page);
  await page.waitForTimeout(2000);
  // A week holds more than this many to go to.
  const moving = await press(page, "j", 30);
  await page.close();
  return [
    { what: "turning a week until painted, 20,000 events", ms: turning, ...turningFloor },
    { what: "turning a week until its events are painted", ms: filling, ...turningFloor },
    { what: "J in a week until painted, 20,000 events", ms: moving, ...floor },
  ];
}
