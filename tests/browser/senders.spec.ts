import type { Page } from "@playwright/test";
import { expect, notice, openBench, test, type App } from "./app";
import { axe } from "./axe";

/** Who fills the mailbox, and ending it by keys. */

const LISTS = 12;
const EACH = 9;

/** Letters of some lists, enough to stand among the first. */
async function bringLists(app: App): Promise<void> {
  const date = new Date().toUTCString().replace("GMT", "+0000");
  const letter = (list: number, n: number) =>
    `From x@y.example Fri Nov 27 00:00:00 2026\r\nFrom: Tarn Times ${list} <times@tarn${list}.example>\r\n` +
    `To: bookings@larchhuts.example\r\nSubject: Number ${n}\r\nDate: ${date}\r\nMessage-ID: <${n}@tarn${list}.example>\r\n` +
    `List-Id: <times.tarn${list}.example>\r\nList-Unsubscribe: <https://tarn${list}.example/leave>\r\n` +
    `List-Unsubscribe-Post: List-Unsubscribe=One-Click\r\n\r\nNews.\r\n\r\n`;
  let mbox = "";
  for (let list = 0; list < LISTS; list++) for (let n = 0; n < EACH; n++) mbox += letter(list, n);
  await app.fetch(`/import?folder=Inbox`, { method: "POST", body: mbox });
  await expect.poll(() => app.count("from~tarn~times | list~times")).toBeGreaterThanOrEqual(LISTS * EACH);
}

const hold = (app: App, holdSeconds: number) =>
  app.fetch(`/settings`, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ holdSeconds }),
  });
const left = async (app: App) => (await app.get<{ left: number }>("/simulator")).left;
const focused = (page: Page) => page.locator("tr[data-focused]");
const row = (page: Page, source: string) => page.locator(`tr[data-source="${source}"]`);

async function open(page: Page, app: App): Promise<void> {
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("senders");
  await page.keyboard.press("Enter");
  await expect(focused(page)).toBeVisible();
}

test("twelve lists are left by keys, each asked once; what is held back is taken back", async ({ page, app }) => {
  await bringLists(app);
  await hold(app, 120);
  await open(page, app);
  await axe(page, "senders");
  // One, taken back before it has gone.
  for (let i = 0; i < 40 && !(await focused(page).getAttribute("data-source"))!.startsWith("list times.tarn"); i++)
    await page.keyboard.press("j");
  const first = (await focused(page).getAttribute("data-source"))!;
  await page.keyboard.press("Delete");
  await expect(notice(page)).toContainText("1 list asked to send nothing more");
  await expect(row(page, first)).toContainText("leaving");
  await page.keyboard.press("u");
  await expect(row(page, first)).not.toContainText("leaving");
  expect(await left(app)).toBe(0);
  // All of them.
  await hold(app, 0);
  await page.keyboard.press("Home");
  for (let ticked = 0, i = 0; ticked < LISTS && i < 60; i++) {
    const isOne = (await focused(page).getAttribute("data-source"))!.startsWith("list times.tarn");
    await page.keyboard.press(isOne ? "i" : "j");
    if (isOne) ticked++;
  }
  await expect(page.getByTestId("acts-on")).toContainText(`${LISTS * EACH} messages in the inbox, of ${LISTS} senders`);
  await page.keyboard.press("Delete");
  await expect(notice(page)).toContainText("12 lists asked to send nothing more");
  await expect.poll(() => left(app)).toBe(LISTS);
  await expect(row(page, first)).toContainText(/left \d/);
  // Once more asks nobody.
  await page.keyboard.press("Home");
  for (let i = 0; i < 40 && (await focused(page).getAttribute("data-source")) !== first; i++)
    await page.keyboard.press("j");
  await page.keyboard.press("Delete");
  await expect(notice(page)).toContainText("Nothing is chosen that was not left already");
  expect(await left(app)).toBe(LISTS);
});

test("what is never read is offered, stands aside by one key and comes in aside; one key ends it", async ({
  page,
  app,
}) => {
  const old = new Date(Date.now() - 9 * 86_400_000).toUTCString().replace("GMT", "+0000");
  const letters = (from: number, to: number) =>
    Array.from(
      { length: to - from },
      (_, n) =>
        `From x@y.example Fri Nov 27 00:00:00 2026\r\nFrom: Gravel Weekly <news@gravel.example>\r\nSubject: No. ${from + n}\r\n` +
        `Date: ${old}\r\nMessage-ID: <${from + n}@gravel.example>\r\nList-Id: <weekly.gravel.example>\r\n\r\nGravel.\r\n\r\n`,
    ).join("");
  const bring = (body: string) => app.fetch(`/import?folder=Inbox`, { method: "POST", body });
  const at = (folder: string) => app.count(`list=weekly.gravel.example folder=${folder}`);
  await bring(letters(0, 9));
  await expect.poll(() => at("Inbox")).toBe(9);
  await open(page, app);
  const source = "list weekly.gravel.example";
  await expect(row(page, source)).toContainText("aside? none of 9 read");
  const offers = page.getByRole("region", { name: "Could stand aside" });
  await expect(offers).toContainText("could stand aside");
  for (let i = 0; i < 60 && (await focused(page).getAttribute("data-source")) !== source; i++)
    await page.keyboard.press("j");
  await page.keyboard.press("Backspace");
  await expect(notice(page)).toContainText("Gravel Weekly: aside from now on");
  await expect(row(page, source)).not.toContainText("aside?");
  await expect.poll(() => at("Aside")).toBe(9);
  // What comes now is never in the inbox, and the ledger says by what.
  await bring(letters(9, 12));
  await expect.poll(() => at("Aside")).toBe(12);
  expect(await at("Inbox")).toBe(0);
  await page.keyboard.press(";");
  await page.keyboard.type("ledger");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("main")).toContainText("Aside: weekly.gravel.example");
  // One key ends it, and it is not offered again.
  await page.keyboard.press(";");
  await page.keyboard.type("senders");
  await page.keyboard.press("Enter");
  await expect(focused(page)).toBeVisible();
  for (let i = 0; i < 60 && (await focused(page).getAttribute("data-source")) !== source; i++)
    await page.keyboard.press("j");
  await page.keyboard.press("Backspace");
  await expect.poll(() => at("Inbox")).toBe(12);
  await expect(row(page, source)).not.toContainText("aside");
  await bring(letters(12, 13));
  await expect.poll(() => at("Inbox")).toBe(13);
  await page.keyboard.press("u");
  await expect.poll(() => at("Aside")).toBe(12);
});

test("senders are blocked, ticked ones as one entry, and what they send is junk", async ({ page, app }) => {
  await bringLists(app);
  await open(page, app);
  const blocked = () => app.get<{ address: string }[]>("/blocked").then((all) => all.map(({ address }) => address));
  const before = await blocked();
  for (let ticked = 0, i = 0; ticked < 3 && i < 60; i++) {
    const isOne = (await focused(page).getAttribute("data-source"))!.startsWith("list times.tarn");
    await page.keyboard.press(isOne ? "i" : "j");
    if (isOne) ticked++;
  }
  await page.keyboard.press("Shift+Delete");
  await expect(notice(page)).toContainText("3 senders: blocked");
  expect(await blocked()).toHaveLength(before.length + 3);
  await page.keyboard.press("u");
  await expect.poll(blocked).toEqual(before);
  // A list that many write to is none of them.
  const circle = "list committee.larchhuts.example";
  await page.keyboard.press("Home");
  for (let i = 0; i < 60 && (await focused(page).getAttribute("data-source")) !== circle; i++)
    await page.keyboard.press("j");
  await page.keyboard.press("Shift+Delete");
  await expect(notice(page)).toContainText("Several people write to committee.larchhuts.example");
  expect(await blocked()).toEqual(before);
});

test("on a phone what the thumb does to one message it does to all of a sender's", async ({ browser, app }) => {
  await bringLists(app);
  const context = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });
  await app.letIn(context);
  const page = await context.newPage();
  await page.goto(`${app.address}/senders`);
  const first = page.locator('tr[data-source^="list times.tarn"]').first();
  await expect(first).toBeVisible();
  const list = (await first.getAttribute("data-source"))!.slice("list ".length);
  await first.getByRole("checkbox").tap();
  await page.getByRole("button", { name: "Archive", exact: true }).tap();
  await expect.poll(() => app.count(`list=${list} folder=Archive`)).toBe(EACH);
  // Nothing is beside the screen.
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await context.close();
});

test("the keys of the deck act on what a sender has in the inbox: trashed, blocked, and taken back", async ({
  page,
  app,
}) => {
  await bringLists(app);
  await open(page, app);
  for (let i = 0; i < 40 && !(await focused(page).getAttribute("data-source"))!.startsWith("list times.tarn"); i++)
    await page.keyboard.press("j");
  const source = (await focused(page).getAttribute("data-source"))!;
  const list = source.slice("list ".length);
  const inbox = () => app.count(`list=${list} folder=Inbox`);
  await expect.poll(inbox).toBe(EACH);
  await page.keyboard.press("d");
  await expect.poll(inbox).toBe(0);
  expect(await app.count(`list=${list} folder=Trash`)).toBe(EACH);
  await expect(row(page, source)).toContainText(`${EACH} of ${EACH}`);
  await page.keyboard.press("u");
  await expect.poll(inbox).toBe(EACH);
  await page.keyboard.press("z");
  await expect.poll(() => app.count(`list=${list} folder=Junk`)).toBe(EACH);
  const blocked = () => app.get<{ address: string }[]>("/blocked").then((all) => all.map(({ address }) => address));
  expect(await blocked()).toContain(`times@${list.slice("times.".length)}`);
  await page.keyboard.press("u");
  await expect.poll(inbox).toBe(EACH);
  expect(await blocked()).not.toContain(`times@${list.slice("times.".length)}`);
  // All of its mail, one key away.
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toContainText(`${EACH} messages`);
});
