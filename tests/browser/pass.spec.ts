import type { Page } from "@playwright/test";
import type { App } from "./app";
import { expect, focusedId, notice, openBench, test } from "./app";

interface PassOf {
  readonly id: string;
  readonly length: number;
  readonly decided: number;
  readonly at: number | null;
}

const counts = (page: Page) => page.getByTestId("pass-counts");
const passes = (app: App) => app.get<PassOf[]>("/passes");
const folderOf = async (app: App, id: number) => (await app.get<{ folder: string }>(`/messages/${id}`)).folder;

/** Narrows to the oldest hundred of the inbox, as the server counts them. */
async function hundred(page: Page, app: App): Promise<number[]> {
  const { rows } = await app.get<{ rows: { id: number; date: string }[] }>(
    "/messages?narrow=folder%3DInbox&order=oldest&limit=101",
  );
  const until = rows[100]!.date.slice(0, 10);
  const narrow = `date<${until}`;
  const total = await app.count(`folder=Inbox & ${narrow}`);
  await page.keyboard.press("/");
  await page.keyboard.type(narrow);
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toContainText(String(total));
  return rows.slice(0, total).map(({ id }) => id);
}

test("a hundred messages one after another by keys alone: all counts right, and it is over when it is", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const ids = await hundred(page, app);
  const total = ids.length;
  expect(total).toBeGreaterThan(60);
  const ledger = (await app.get<unknown[]>("/ledger?limit=500")).length;
  await page.keyboard.press("p");
  await expect(counts(page)).toHaveText(`0 done, ${total} to go`);
  // Old ones first, as the server has them.
  expect(Number(await focusedId(page))).toBe(ids[0]);
  const wanted = { done: 0, aside: 0, skipped: 0 };
  const keys = ["f", "d", "q", "j"];
  for (let n = 0; n < total; n++) {
    const key = keys[n % keys.length]!;
    await page.keyboard.press(key);
    if (key === "q") wanted.aside++;
    else if (key === "j") wanted.skipped++;
    else wanted.done++;
  }
  const end = page.getByRole("region", { name: "End of the pass" });
  await expect(end).toBeVisible();
  await expect(counts(page)).toHaveText(
    `${wanted.done} done, ${wanted.aside} set aside, ${wanted.skipped} skipped, 0 to go`,
  );
  await expect(end).toContainText(`${wanted.done + wanted.aside} messages decided`);
  await expect(end.getByRole("row", { name: /^Trash/ })).toContainText(
    String(ids.filter((_, n) => n % 4 === 1).length),
  );
  await expect(end).toContainText(`${wanted.skipped} messages skipped`);
  for (const n of [0, 1, 2, 3]) {
    const where = ["Archive", "Trash", "Inbox", "Inbox"][n]!;
    await expect.poll(() => folderOf(app, ids[n]!)).toBe(where);
  }
  await expect.poll(() => app.count("folder=Inbox & owed")).toBeGreaterThanOrEqual(wanted.aside);
  // Nothing is acted on at the end: a key too many does no harm.
  const runs = async () => (await app.get<unknown[]>("/ledger?limit=500")).length;
  await expect.poll(runs).toBe(ledger + wanted.done + wanted.aside);
  await page.keyboard.press("d");
  await expect(notice(page)).toContainText("There is no message to act on");
  expect(await runs()).toBe(ledger + wanted.done + wanted.aside);
  // The last decision is taken back by one key, and the pass is not over any more.
  const lastDecided = (total - 1) % 4 === 3 ? total - 2 : total - 1;
  await page.keyboard.press("u");
  await expect(end).toHaveCount(0);
  expect(Number(await focusedId(page))).toBe(ids[lastDecided]);
  await page.keyboard.press("f");
  await expect(end).toBeVisible();
  // What was skipped is gone through again.
  await end.getByRole("button", { name: "Go through them" }).first().click();
  for (let n = 0; n < wanted.skipped; n++) await page.keyboard.press("f");
  await expect(end).toBeVisible();
  await end.getByRole("button", { name: "Close the pass" }).click();
  await expect.poll(() => passes(app)).toEqual([]);
  await expect(page.getByTestId("count")).toBeVisible();
});

test("begun in one window, gone on with in another at the same place, and what both decide counts", async ({
  page,
  context,
  app,
}) => {
  await openBench(page, app);
  await page.keyboard.press("p");
  await expect(counts(page)).toContainText("0 done");
  const total = Number(/(\d+) to go/.exec(await counts(page).innerText())![1]);
  for (const key of ["f", "f", "j", "d"]) await page.keyboard.press(key);
  await expect(counts(page)).toHaveText(`3 done, 1 skipped, ${total - 4} to go`);
  const at = await focusedId(page);
  await page.keyboard.press("p");
  await expect(counts(page)).toHaveCount(0);
  await expect(notice(page)).toContainText("P goes on with it");
  await expect.poll(async () => (await passes(app))[0]?.at).toBe(Number(at));
  await expect.poll(async () => (await passes(app))[0]?.decided).toBe(3);
  const other = await context.newPage();
  await openBench(other, app);
  await other.getByRole("button", { name: /^Pass of Inbox/ }).click();
  await expect(counts(other)).toHaveText(`3 done, 1 skipped, ${total - 4} to go`);
  await expect.poll(() => focusedId(other)).toBe(at);
  // The first window goes on as well: each sees what the other decides.
  await page.keyboard.press("p");
  await expect(counts(page)).toHaveText(`3 done, 1 skipped, ${total - 4} to go`);
  await other.keyboard.press("f");
  await expect(counts(page)).toHaveText(`4 done, 1 skipped, ${total - 5} to go`);
  // A window that is loaded anew stands where it stood.
  const there = await focusedId(other);
  await other.reload();
  await expect(counts(other)).toHaveText(`4 done, 1 skipped, ${total - 5} to go`);
  await expect.poll(() => focusedId(other)).toBe(there);
});

test("what arrives does not disturb a pass; a number and a word lead to messages of it; pads answer in it", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  for (let n = 0; n < 3; n++) {
    await page.keyboard.press("i");
    await page.keyboard.press("j");
  }
  await page.keyboard.press("p");
  await expect(counts(page)).toHaveText("0 done, 3 to go");
  await app.fetch(`/simulator/mail`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ count: 2 }),
  });
  const inbox = await app.count("folder=Inbox");
  await expect.poll(() => app.count("folder=Inbox")).toBeGreaterThan(inbox - 1);
  await expect(counts(page)).toHaveText("0 done, 3 to go");
  await page.keyboard.press("/");
  await page.keyboard.type("4");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toContainText("There are 3: write 1 to 3.");
  await page.keyboard.press("Backspace");
  await page.keyboard.type("3");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "no. 3" })).toBeVisible();
  // What was jumped over is still to be decided: the end leads back to it.
  await page.keyboard.press("f");
  await expect(page.getByRole("button", { name: "no. 1" })).toBeVisible();
  await expect(counts(page)).toHaveText("1 done, 2 to go");
  await page.keyboard.press("r");
  const composer = page.getByRole("region", { name: "Composer" });
  await expect(composer).toHaveAttribute("data-ready", "true");
  await page.keyboard.type("Yes.");
  await page.keyboard.press("Control+Enter");
  await expect(composer).toHaveCount(0);
  await expect(counts(page)).toHaveText("2 done, 1 to go");
  await page.keyboard.press("f");
  const end = page.getByRole("region", { name: "End of the pass" });
  await expect(end).toContainText("3 messages decided");
  // Of the place it was begun on only what has come since is offered, not all that was not selected.
  await expect(end).toContainText(/(\d) messages? came meanwhile/);
  const fresh = Number(/(\d+) messages? came meanwhile/.exec(await end.innerText())![1]);
  expect(fresh).toBeLessThanOrEqual(2);
  await end.getByRole("button", { name: "Go through them" }).click();
  await expect(counts(page)).toContainText(`3 done, ${fresh} to go`);
});

test("all of a pass is its queue and no more; its end is left by going back into it; a pass is forgotten", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  for (let n = 0; n < 3; n++) {
    await page.keyboard.press("i");
    await page.keyboard.press("j");
  }
  await page.keyboard.press("p");
  await expect(counts(page)).toHaveText("0 done, 3 to go");
  await page.keyboard.press("Control+a");
  await page.keyboard.press("d");
  await expect(counts(page)).toHaveText("3 done, 0 to go");
  await expect.poll(() => app.count("folder=Trash")).toBe(3);
  expect(await app.count("folder=Inbox")).toBe(inbox - 3);
  const end = page.getByRole("region", { name: "End of the pass" });
  await expect(end).toBeVisible();
  await page.keyboard.press("k");
  await expect(end).toHaveCount(0);
  await expect(page.getByRole("button", { name: "no. 3" })).toBeVisible();
  // It can be decided again.
  await page.keyboard.press("f");
  await expect(end).toBeVisible();
  await expect.poll(() => app.count("folder=Trash")).toBe(2);
  await page.keyboard.press("u");
  await page.keyboard.press("u");
  await expect(counts(page)).toHaveText("0 done, 3 to go");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  await page.keyboard.press("p");
  await expect(counts(page)).toHaveCount(0);
  // One of a few messages is not what is meant by a pass of the place.
  await page.keyboard.press("p");
  await expect(counts(page)).toContainText(`0 done, ${inbox} to go`);
  await page.keyboard.press("p");
  await page.getByRole("button", { name: /^Pass of Inbox/ }).hover();
  await page.getByRole("button", { name: "Forget the pass of Inbox" }).click();
  await expect(page.getByRole("button", { name: /^Pass of Inbox/ })).toHaveCount(0);
  await page.getByRole("button", { name: /^Pass of 3 of Inbox/ }).hover();
  await page.getByRole("button", { name: "Forget the pass of 3 of Inbox" }).click();
  await expect(page.getByRole("button", { name: /^Pass of/ })).toHaveCount(0);
  expect(await passes(app)).toEqual([]);
});

test.describe("on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });

  test("the whole card is swiped, and the gesture that goes back leaves one thing at a time", async ({ page, app }) => {
    await openBench(page, app);
    const inbox = await app.count("folder=Inbox");
    const address = page.url();
    await page.getByRole("button", { name: "Places" }).tap();
    await expect(page.getByRole("navigation", { name: "Places" })).toBeInViewport();
    await page.goBack();
    await expect(page.getByRole("navigation", { name: "Places" })).not.toBeInViewport();
    await page.locator("[data-place='1']").tap();
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    await page.goBack();
    await expect(page.locator("[data-place='1']")).toBeVisible();
    await page.getByRole("button", { name: "pass", exact: true }).tap();
    await expect(counts(page)).toContainText("0 done");
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    const cdp = await page.context().newCDPSession(page);
    const at = async (type: "touchStart" | "touchMove" | "touchEnd", x?: number) =>
      cdp.send("Input.dispatchTouchEvent", { type, touchPoints: x === undefined ? [] : [{ x, y: 130 }] });
    await at("touchStart", 60);
    // The name of what letting go would do stands beside the card while it follows the finger.
    const strip = page.locator("[data-strip]");
    await at("touchMove", 100);
    await at("touchMove", 170);
    await expect(strip).toHaveText("Owe a reply");
    await at("touchMove", 330);
    await expect(strip).toHaveText("Archive");
    await at("touchEnd");
    await expect(counts(page)).toContainText("1 done");
    await page.getByRole("button", { name: "Archive", exact: true }).tap();
    await expect(counts(page)).toContainText("2 done");
    await page.getByRole("button", { name: "Undo" }).tap();
    await expect(counts(page)).toContainText("1 done");
    await page.goBack();
    await expect(counts(page)).toHaveCount(0);
    await expect(page.locator("[data-place]").first()).toBeVisible();
    expect(page.url()).toBe(address);
    await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  });

  test("a thumb on a page of HTML swipes the card it lies in", async ({ page, app }) => {
    const html = "<p>Beds and soup.</p>".repeat(12);
    const mail = `From x@post.example Thu Nov 26 08:00:00 2026\nFrom: Ines <ines@post.example>\nTo: bookings@larchhuts.example\nSubject: A page\nMessage-ID: <page@post.example>\nDate: Thu, 26 Nov 2026 08:00:00 +0000\nContent-Type: text/html; charset=utf-8\n\n${html}\n`;
    await app.fetch(`/import?folder=Bookings`, { method: "POST", body: mail });
    await expect.poll(() => app.count('subject="A page"')).toBe(1);
    await openBench(page, app);
    await page.getByRole("button", { name: "Places" }).tap();
    await page.getByRole("navigation", { name: "Places" }).getByText("Bookings", { exact: true }).tap();
    await page.getByRole("combobox", { name: "Narrow further" }).tap();
    await page.keyboard.type("page from~ines");
    await page.keyboard.press("Enter");
    await page.getByRole("button", { name: "pass", exact: true }).tap();
    const frame = page.frameLocator('iframe[title="Message text"]');
    await expect(frame.getByText("Beds and soup.").first()).toBeVisible();
    const box = (await page.locator('iframe[title="Message text"]').boundingBox())!;
    const cdp = await page.context().newCDPSession(page);
    const at = (type: "touchStart" | "touchMove" | "touchEnd", x?: number) =>
      cdp.send("Input.dispatchTouchEvent", { type, touchPoints: x === undefined ? [] : [{ x, y: box.y + 60 }] });
    await at("touchStart", 60);
    await at("touchMove", 110);
    await at("touchMove", 190);
    await expect(page.locator("[data-strip]")).toHaveText("Owe a reply");
    await at("touchMove", 330);
    await expect(page.locator("[data-strip]")).toHaveText("Archive");
    await at("touchEnd");
    // Flung as it was, the tap that comes next is a tap.
    await page.getByRole("button", { name: "Undo" }).tap();
    await expect(counts(page)).toContainText("0 done");
    await expect
      .poll(async () => (await app.get<object[]>("/ledger?limit=1"))[0])
      .toMatchObject({
        kind: "undo",
        macro: { name: "Archive" },
      });
    expect(await app.count('folder=Bookings & subject="A page"')).toBe(1);
  });
});
