import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { counted, expect, notice, openBench, test } from "./app";
import { axe } from "./axe";

/** Figures and charts: read by keys, each a step from the mail behind it, and true to what was done. */

const figure = (page: Page, id: string) => page.locator(`[data-figure="${id}"]`);
const focused = (page: Page) => page.locator("[data-figure][data-focused]");
const point = (page: Page, id: string) => page.getByTestId(`point-${id}`);

/** Goes there from the bench by keys, without a load of the page. */
async function toScreen(page: Page): Promise<void> {
  await page.keyboard.press(";");
  await page.keyboard.type("pace");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toHaveCount(0);
}
async function toPace(page: Page): Promise<void> {
  await toScreen(page);
  await expect(figure(page, "backlog")).toBeVisible();
}
const waiting = (page: Page) => page.locator("dl").getByText("Waiting now").locator("xpath=../dd");

/** Today's row of what came and went, as figures. */
async function today(page: Page): Promise<{ came: number; decided: number }> {
  const cells = await figure(page, "flow").getByRole("row").last().getByRole("cell").allInnerTexts();
  return { came: Number(cells[0]), decided: Number(cells[1]) };
}

test("what is decided by keys is in the figures, and taken back it is out of them", async ({ page, app }) => {
  await openBench(page, app);
  const before = await counted(page);
  for (let n = 0; n < 4; n++) await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Inbox")).toBe(before - 4);
  await toPace(page);
  await expect(waiting(page)).toContainText(String(before - 4));
  await page.keyboard.press("j");
  await expect(focused(page)).toHaveAttribute("data-figure", "flow");
  await page.keyboard.press("t");
  await expect.poll(async () => (await today(page)).decided).toBe(4);
  // What made them is told with what it saved: a press for a press, less the mind that was made up.
  const macros = figure(page, "macros").getByRole("row").nth(1);
  await expect(macros.getByRole("cell").nth(1)).toHaveText("4");
  await expect(macros.getByRole("cell").nth(2)).toHaveText("4");

  await page.keyboard.press("u");
  await page.keyboard.press("u");
  await expect(notice(page)).toContainText(/took back|taken back|back/i);
  await expect.poll(async () => (await today(page)).decided).toBe(2);
  await expect(waiting(page)).toContainText(String(before - 2));

  // The runs of a macro are one key from it, and later the ledger has all runs again.
  for (let n = 0; n < 2; n++) await page.keyboard.press("j");
  await expect(focused(page)).toHaveAttribute("data-figure", "macros");
  await page.keyboard.press("ArrowRight");
  const macro = await macros.getByRole("rowheader").innerText();
  await page.keyboard.press("Enter");
  const chosen = page.getByLabel("Runs of").locator("option:checked");
  await expect(chosen).toHaveText(macro);
  await toPace(page);
  await page.keyboard.press(";");
  await page.keyboard.type("ledger");
  await page.keyboard.press("Enter");
  await expect(chosen).toHaveText("all macros");
});

test("periods, places and points are chosen by keys, and a point is one key from its mail", async ({ page, app }) => {
  await openBench(page, app);
  await toPace(page);
  await page.keyboard.press("5");
  await expect(page.getByRole("button", { name: "1 year" })).toHaveAttribute("aria-pressed", "true");
  const year = await page.getByTestId("span").innerText();
  await page.keyboard.press("Shift+ArrowLeft");
  await expect(page.getByTestId("span")).not.toHaveText(year);
  await page.keyboard.press("Shift+ArrowRight");
  await expect(page.getByTestId("span")).toHaveText(year);
  await page.keyboard.press("2");

  // The last day but one of what waited: its mail is what is older than that and waits still.
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("ArrowLeft");
  await expect(point(page, "backlog")).toContainText(/all [\d,]+/);
  const [day] = /^\w+ \d+ \w+/.exec(await point(page, "backlog").innerText())!;
  const all = Number(/all ([\d,]+)/.exec(await point(page, "backlog").innerText())![1]!.replaceAll(",", ""));
  expect(day).toBeTruthy();
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-place]").first()).toBeVisible();
  await expect.poll(() => counted(page)).toBe(all);

  await toPace(page);
  for (let n = 0; n < 4; n++) await page.keyboard.press("j");
  await expect(focused(page)).toHaveAttribute("data-figure", "senders");
  await page.keyboard.press("ArrowRight");
  const waits = Number(await figure(page, "senders").getByRole("row").nth(1).getByRole("cell").nth(2).innerText());
  expect(waits).toBeGreaterThan(0);
  await page.keyboard.press("Enter");
  await expect.poll(() => counted(page)).toBe(waits);

  await toPace(page);
  await page.keyboard.press("p");
  const place = page.getByLabel("Place", { exact: true });
  await expect(place).toBeFocused();
  await page.keyboard.press("ArrowDown");
  await expect(place).not.toHaveValue("");
  const chosen = /\(([\d,]+)\)/.exec(await place.locator("option:checked").innerText())![1]!;
  await expect(waiting(page)).toContainText(new RegExp(`^${chosen} `));
  await page.keyboard.press("Escape");
  await page.keyboard.press("1");
  await expect(page.getByRole("button", { name: "1 day" })).toHaveAttribute("aria-pressed", "true");
});

test("while the past is counted it says so and shows by itself; the day to be empty by is one key away", async ({
  page,
  app,
}) => {
  let counted = false;
  const soon = new Date(Date.now() + 4 * 86_400_000).toISOString().slice(0, 10);
  const asked: (string | null)[] = [];
  await page.route(/\/api\/v1\/pace\?/, async (route) => {
    if (!counted)
      return route.fulfill({ status: 409, json: { title: "Still counting", status: 409, detail: "Being counted." } });
    asked.push(new URL(route.request().url()).searchParams.get("until"));
    const answer = await route.fetch();
    const until = asked.at(-1) ?? soon;
    const empty = { soonest: 9, likely: 12, latest: null };
    // A mailbox of an hour ago knows no days to tell from: here it knows some.
    const forecast = { days: 28, gain: 1, empty, until, needed: { likely: 4, atMost: 6 } };
    return route.fulfill({ json: { ...((await answer.json()) as object), forecast } });
  });
  await openBench(page, app);
  await toScreen(page);
  await expect(page.getByRole("main").getByRole("alert")).toContainText("Being counted.");
  await expect(page.getByLabel("Place", { exact: true })).toHaveCount(0);
  counted = true;
  await expect(page.getByTestId("forecast")).toContainText(`To be empty by ${Number(soon.slice(-2))} `);
  await expect(page.getByRole("main").getByRole("alert")).toHaveCount(0);
  await page.keyboard.press("e");
  const [year, month, date] = new Date(Date.now() + 40 * 86_400_000).toISOString().slice(0, 10).split("-");
  await page.keyboard.type(`${month}${date}${year}`);
  await expect(page.getByTestId("forecast")).toContainText(`To be empty by ${Number(date)} `);
  expect(asked.at(-1)).toBe(`${year}-${month}-${date}`);
  // Keys mean the screen again after Esc.
  await page.keyboard.press("Escape");
  await page.keyboard.press("j");
  await expect(focused(page)).toHaveAttribute("data-figure", "flow");
});

test("each figure is a table and a file, and the screen is clean for a reader of screens", async ({ page, app }) => {
  await openBench(page, app);
  await toPace(page);
  await axe(page, "by day");
  for (const id of ["backlog", "flow", "week"]) {
    await expect(figure(page, id).getByRole("table")).toHaveCount(0);
    await page.keyboard.press("t");
    await expect(figure(page, id).getByRole("table")).toBeVisible();
    await page.keyboard.press("j");
  }
  await axe(page, "as tables");
  for (let n = 0; n < 4; n++) await page.keyboard.press("k");
  await expect(focused(page)).toHaveAttribute("data-figure", "backlog");
  const download = page.waitForEvent("download");
  await page.keyboard.press("c");
  const file = await download;
  expect(file.suggestedFilename()).toMatch(/^backlog-\d{4}-\d\d-\d\d-\d{4}-\d\d-\d\d\.csv$/);
  const lines = (await readFile(await file.path(), "utf8")).trim().split("\r\n");
  expect(lines).toHaveLength(29);
  expect(Number(lines.at(-1)!.split(",")[1])).toBe(await app.count("folder=Inbox"));
  await page.emulateMedia({ colorScheme: "dark" });
  await page.evaluate(() => (document.documentElement.dataset.theme = "night"));
  await axe(page, "by night");
});

test("a week is looked back on, and written to oneself", async ({ page, app }) => {
  // The figures above it come after the key: what was gone to stays where it is seen.
  let pressed = () => {};
  const until = new Promise<void>((resolve) => (pressed = resolve));
  await page.route(/\/api\/v1\/pace\/(senders|macros|review)\b/, async (route) => {
    await until;
    await route.continue();
  });
  await openBench(page, app);
  await toPace(page);
  await page.keyboard.press("r");
  await expect(page.getByRole("region", { name: "A week looked back on" })).toBeInViewport();
  pressed();
  const review = page.getByRole("region", { name: /^The week of/ });
  await expect(figure(page, "senders").getByRole("row")).not.toHaveCount(1);
  await expect(review).toBeInViewport();
  const heading = await review.getByRole("heading", { level: 2 }).innerText();
  await review.getByRole("button", { name: "The week after" }).click();
  await expect(review.getByRole("heading", { level: 2 })).not.toHaveText(heading);
  await page
    .getByRole("region", { name: /^The week of/ })
    .getByRole("button", { name: "Write it to myself" })
    .click();
  await expect(page.getByLabel("Subject")).toHaveValue(/^The week of /);
  await expect(page.getByRole("textbox", { name: "Text" })).toContainText(/came, .* went, .* wait/);
});

test.describe("on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });
  test("figures stand one below the other, and nothing is wider than the screen", async ({ page, app }) => {
    await page.goto(`${app.address}/pace`);
    await expect(figure(page, "backlog")).toBeVisible();
    await page.getByRole("button", { name: "13 weeks" }).tap();
    await expect(page.getByRole("button", { name: "13 weeks" })).toHaveAttribute("aria-pressed", "true");
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    await figure(page, "flow").getByRole("button", { name: "As a table" }).tap();
    await expect(figure(page, "flow").getByRole("table")).toBeVisible();
    await axe(page, "phone");
  });
});
