import { expect, focusedId, notice, openBench, test, type App } from "./app";
import type { Page } from "@playwright/test";

const LONG = Array.from({ length: 120 }, (_, i) => `Line ${i} of a long letter about the larch saddle.`).join("\n\n");

/** Brings in two messages of one thread: one with quoted text, one long. */
async function bring(app: App): Promise<void> {
  const date = (minutes: number) => new Date(Date.now() - minutes * 60_000).toUTCString();
  const mail = (id: string, more: string, minutes: number, type: string, body: string) =>
    `From: Ines <ines@post.example>\nTo: bookings@larchhuts.example\nSubject: Reading matter\nMessage-ID: <${id}@post.example>\n${more}Date: ${date(minutes)}\nContent-Type: ${type}; charset=utf-8\n\n${body}\n`;
  const messages = [
    mail("one", "", 3, "text/plain", LONG),
    mail(
      "two",
      "References: <one@post.example>\n",
      2,
      "text/plain",
      "My own Saddle words.\n\nOn Monday Ines wrote:\n> quoted first\n> quoted second\n\nAnd more of mine.",
    ),
    mail(
      "three",
      "References: <one@post.example>\n",
      1,
      "text/html",
      "<p>Saddle in a page</p><blockquote><p>an earlier saddle</p></blockquote>",
    ),
  ];
  for (const body of messages) await app.fetch(`/import?folder=Readings`, { method: "POST", body });
  await expect.poll(() => app.count("folder=Readings")).toBe(3);
}

async function goTo(page: Page, place: string): Promise<void> {
  await page.keyboard.press(";");
  await page.keyboard.type(place);
  await page.keyboard.press("Enter");
}
const reader = (page: Page) => page.getByRole("region", { name: "Message" });

test("quoted text is folded, words are found in text and in pages, and text can be larger", async ({ page, app }) => {
  await bring(app);
  await openBench(page, app);
  await goTo(page, "readings");
  // The newest is a page, with its quote folded within.
  const frame = page.frameLocator("iframe[title='Message text']");
  await expect(frame.getByText("Saddle in a page")).toBeVisible();
  await expect(frame.getByText("an earlier saddle")).toBeHidden();
  await page.keyboard.press("Control+f");
  await page.getByLabel("Find in the message").fill("saddle");
  await expect(reader(page).getByText("1 of 2")).toBeVisible();
  await expect(frame.getByText("an earlier saddle")).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(reader(page).getByText("2 of 2")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(frame.locator("mark")).toHaveCount(0);

  await page.keyboard.press("j");
  await expect(reader(page).getByText("My own Saddle words.", { exact: true })).toBeVisible();
  await expect(reader(page).getByText("quoted, 3 lines")).toBeVisible();
  await expect(reader(page).getByText("quoted first")).toBeHidden();
  await reader(page).getByText("quoted, 3 lines").click();
  await expect(reader(page).getByText("quoted first")).toBeVisible();
  await page.locator("#messages").focus();
  const size = () =>
    reader(page)
      .getByText("My own Saddle words.", { exact: true })
      .evaluate((element) => parseFloat(getComputedStyle(element).fontSize));
  const before = await size();
  await page.keyboard.press("Shift+Period");
  await expect.poll(size).toBeGreaterThan(before);
  await page.reload();
  await openBench(page, app);
  await expect(page.locator("[data-focused]")).toHaveCount(1);
});

test("Space reads to the end and then goes on; the thread is walked; the reader moves", async ({ page, app }) => {
  await bring(app);
  await openBench(page, app);
  await goTo(page, "readings");
  await page.keyboard.press("End");
  const long = await focusedId(page);
  await expect(reader(page).getByText("Line 9 of a long letter")).toBeVisible();
  await page.keyboard.press("Home");
  await page.keyboard.press("[");
  await page.keyboard.press("[");
  expect(await focusedId(page)).toBe(long);
  await expect(reader(page).getByText("Line 9 of a long letter")).toBeVisible();
  const scrolled = () => reader(page).evaluate((element) => element.scrollTop);
  await page.keyboard.press("Space");
  await expect.poll(scrolled).toBeGreaterThan(100);
  expect(await focusedId(page)).toBe(long);
  await page.keyboard.press("Shift+Space");
  await expect.poll(scrolled).toBe(0);
  await page.keyboard.press("\\");
  await page.keyboard.press("Home");
  for (let i = 0; i < 60 && (await focusedId(page)) === long; i++) await page.keyboard.press("Space");
  expect(await focusedId(page)).not.toBe(long);
  const box = async (what: "list" | "reader") =>
    (await (what === "list" ? page.locator("#messages") : reader(page)).boundingBox())!;
  expect((await box("reader")).x).toBeGreaterThan((await box("list")).x + 100);
  await page.keyboard.press("Shift+M");
  await expect(notice(page)).toContainText("below the list");
  expect((await box("reader")).y).toBeGreaterThan((await box("list")).y + 100);
  await page.keyboard.press("Shift+M");
  await expect(reader(page)).toHaveCount(0);
  await page.keyboard.press("Enter");
  await expect(reader(page)).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.locator("#messages")).toBeVisible();
  await page.reload();
  await openBench(page, app);
  await expect(reader(page)).toHaveCount(0);
});

test("a message opens in a window of its own, where its thread is walked by keys", async ({ page, context, app }) => {
  await bring(app);
  await openBench(page, app);
  await goTo(page, "readings");
  const opening = context.waitForEvent("page");
  await page.keyboard.press("o");
  const own = await opening;
  await expect(own.getByRole("heading", { name: "Reading matter" })).toBeVisible();
  await expect(own.getByText("3 of 3 in its thread")).toBeVisible();
  await expect(own.getByRole("navigation", { name: "Places" })).toHaveCount(0);
  await own.keyboard.press("[");
  await expect(own.getByText("My own Saddle words.", { exact: true })).toBeVisible();
  await own.keyboard.press("[");
  await expect(own.getByText("1 of 3 in its thread")).toBeVisible();
  await expect(reader(own)).toContainText("Line 119 of a long letter");
  await own.keyboard.press("Space");
  await expect.poll(() => reader(own).evaluate((element) => element.scrollTop)).toBeGreaterThan(100);
  await own.keyboard.press("Control+f");
  await own.getByLabel("Find in the message").fill("line 119");
  await expect(own.getByText("1 of 1", { exact: true })).toBeVisible();
});

test("a window of its own decides, goes on to the next, and takes back", async ({ page, context, app }) => {
  await openBench(page, app);
  const ids = await page.locator("[data-place]").evaluateAll((rows) => rows.map((row) => row.getAttribute("data-id")!));
  const sent = await app.count("folder=Outbox | folder=Sent");
  await page.keyboard.press("j");
  const opening = context.waitForEvent("page");
  await page.keyboard.press("o");
  const own = await opening;
  const front = () => own.getByRole("region", { name: "Message" }).getAttribute("data-read");
  await expect.poll(front).toBe(ids[1]);
  await expect(own.getByText(`2 of ${await app.count("folder=Inbox & !deferred")}`)).toBeVisible();
  await own.keyboard.press("f");
  await expect.poll(front).toBe(ids[2]);
  await own.keyboard.press("d");
  await own.keyboard.press("d");
  await expect.poll(front).toBe(ids[4]);
  // The window it came from hears of it.
  for (const id of ids.slice(1, 4)) await expect(page.locator(`[data-id="${id}"]`)).toHaveCount(0);
  await own.keyboard.press("u");
  await expect(own.getByTestId("notice")).toContainText("Took back: Trash");
  await expect(page.locator(`[data-id="${ids[3]}"]`)).toHaveCount(1);
  // What asks something asks here, and an answer is written here.
  await own.keyboard.press("w");
  await own.keyboard.type("tomorrow 9");
  await own.keyboard.press("Enter");
  await expect.poll(() => app.count("deferred")).toBe(1);
  await own.keyboard.press("r");
  await expect(own.getByRole("region", { name: "Composer" }).getByRole("textbox", { name: "Text" })).toBeFocused();
  await own.keyboard.type("From a window of its own.");
  await expect(async () => {
    // Whom it goes to depends on the hour, and an address that is close to another one is asked about first.
    await own.keyboard.press("Control+Enter");
    await expect(own.getByRole("region", { name: "Composer" })).toHaveCount(0, { timeout: 3000 });
  }).toPass();
  await expect.poll(() => app.count("folder=Outbox | folder=Sent")).toBe(sent + 1);
  const closed = own.waitForEvent("close");
  // The window is gone before the key is up.
  await Promise.all([closed, own.keyboard.press("Escape").catch(() => undefined)]);
});

test("prints the message alone", async ({ page, app }) => {
  await openBench(page, app);
  await page.emulateMedia({ media: "print" });
  await expect(page.getByRole("navigation", { name: "Places" })).toBeHidden();
  await expect(page.locator("#messages")).toBeHidden();
  await expect(reader(page).getByRole("heading").first()).toBeVisible();
  await page.emulateMedia({ media: "screen" });
  await page.evaluate("window.print = () => (window.printed = true)");
  await expect(reader(page).getByRole("group", { name: "Show as" })).toBeVisible();
  await page.keyboard.press("Control+p");
  expect(await page.evaluate("window.printed")).toBe(true);
});
