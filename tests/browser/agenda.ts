import type { Page } from "@playwright/test";
import { expect, type App } from "./app";

/** The agenda, as its tests meet it. */

export interface Event {
  readonly id: number;
  readonly title: string;
  readonly start: string;
  readonly length: number;
  readonly rule: string | null;
  readonly task: number | null;
  readonly except: readonly string[];
  readonly instead: string | null;
}
const RANGE = `from=${new Date(Date.now() - 400 * 86_400_000).toISOString()}&to=${new Date(Date.now() + 390 * 86_400_000).toISOString()}`;
export const eventsOf = (app: App) => app.get<Event[]>(`/events?${RANGE}`);
export const titled = async (app: App, title: string) => (await eventsOf(app)).find((event) => event.title === title);
export const box = (page: Page, title: string) =>
  page.locator("[data-event]:not([aria-hidden] *)").filter({ hasText: title });
export const focused = (page: Page) => page.locator("[data-event][aria-current=true]").first();

/** The Monday of the week after next, as the screen names days: no hour of it is over. */
export function monday(weeks = 2): string {
  const day = new Date();
  day.setUTCDate(day.getUTCDate() + 7 * weeks - ((day.getUTCDay() + 6) % 7));
  return day.toISOString().slice(0, 10);
}
export const on = (days: number, weeks = 2) =>
  new Date(Date.parse(`${monday(weeks)}T12:00Z`) + days * 86_400_000).toISOString().slice(0, 10);

export async function openAgenda(page: Page, app: App): Promise<void> {
  await page.goto(`${app.address}/agenda`);
  await expect(page.locator("main[data-ready]")).toBeVisible();
}
export async function write(page: Page, line: string): Promise<void> {
  await page.keyboard.press("n");
  await page.keyboard.insertText(line);
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("What takes place").first()).toHaveValue("");
  await page.keyboard.press("Escape");
}
