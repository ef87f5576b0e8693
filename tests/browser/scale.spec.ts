import type { Page } from "@playwright/test";
import { counted, expect, focusedId, openBench, test } from "./app";
import { makeTemplate } from "./prepare";

const MESSAGES = 100_000;
test.use({ messages: MESSAGES });
test.describe.configure({ timeout: 240_000 });

test.beforeAll(async () => {
  test.setTimeout(600_000);
  await makeTemplate(MESSAGES);
});

async function type(page: Page, key: string, typed: string): Promise<void> {
  await page.keyboard.press(key);
  await page.keyboard.type(typed);
  await page.keyboard.press("Enter");
}
const count = (page: Page) => page.getByTestId("count");
const number = (n: number) => n.toLocaleString("en");

/** All mail, instead of the inbox the bench begins with. */
async function allMail(page: Page): Promise<void> {
  await type(page, ";", "all mail");
  await expect(count(page)).toHaveText(`${number(MESSAGES)} messages`);
}

test("a hundred thousand messages: narrow, group, select all, run, undo, and a second window follows", async ({
  page,
  context,
  app,
}) => {
  await openBench(page, app);
  await allMail(page);
  const other = await context.newPage();
  await openBench(other, app);
  await allMail(other);
  await type(page, "/", "folder~a unread");
  const matching = await app.count("folder~a & unread");
  expect(matching).toBeGreaterThan(500);
  expect(await counted(page)).toBe(matching);
  await type(page, "Shift+Backslash", "groups by sender");
  await page.keyboard.press("Shift+Minus");
  const heads = page.locator("[data-head]");
  await expect(heads.first()).toHaveAttribute("aria-label", /folded/);
  await page.keyboard.press("Control+a");
  await expect(count(page)).toHaveText(`${number(matching)} of ${number(matching)} selected`);
  await page.keyboard.press("Home");
  await page.keyboard.press("i");
  const left = Number(
    /([\d,]+) messages/.exec((await heads.first().getAttribute("aria-label"))!)![1]!.replace(",", ""),
  );
  await expect(count(page)).toHaveText(`${number(matching - left)} of ${number(matching)} selected`);
  // One short request says what was selected: the whole list but for one group.
  const request = page.waitForRequest((one) => one.url().endsWith("/api/v1/runs"));
  await page.keyboard.press("v");
  // So many at once are asked about, with the count.
  await expect(page.getByRole("dialog")).toContainText(number(matching - left));
  await page.keyboard.press("Enter");
  const target = ((await request).postDataJSON() as { target: { narrow: string; except: number[] } }).target;
  expect(target.except).toHaveLength(left);
  await expect.poll(() => app.count("folder~a & unread")).toBe(left);
  await expect(count(page)).toHaveText(`${number(left)} messages`);
  await type(other, "/", "folder~a unread");
  await expect.poll(() => counted(other)).toBe(left);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder~a & unread")).toBe(matching);
  await expect.poll(() => counted(other)).toBe(matching);
});

test("a folded group that is made read leaves a list of what is unread, with all of it, and comes back", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await allMail(page);
  await type(page, "/", "unread");
  const unread = await app.count("unread");
  await expect(count(page)).toHaveText(`${number(unread)} messages`);
  await type(page, "Shift+Backslash", "groups by folder");
  await page.keyboard.press("Shift+Minus");
  const group = page.locator("[data-head]").filter({ hasText: "Inbox" });
  await group.click();
  const size = await app.count("unread & folder=Inbox");
  expect(size).toBeGreaterThan(60);
  await page.keyboard.press("v");
  // Its head stays, decided, until it is settled.
  await expect(group).toHaveAttribute("aria-label", /Group Inbox, .*decided/);
  await expect(count(page)).toHaveText(`${number(unread - size)} messages`);
  await page.keyboard.press("u");
  await expect(count(page)).toHaveText(`${number(unread)} messages`);
  await expect(group).toHaveAttribute("aria-label", new RegExp(`Group Inbox, ${number(size)} messages`));
});

test("the whole mailbox is selected as it is, run on and taken back exactly", async ({ page, app }) => {
  await openBench(page, app);
  await allMail(page);
  const before = await app.count("pinned");
  await page.keyboard.press("Control+a");
  await page.keyboard.press("i");
  await expect(count(page)).toHaveText(`${number(MESSAGES - 1)} of ${number(MESSAGES)} selected`);
  for (const key of ["j", "l", "Space", "h"]) await page.keyboard.press(key);
  await page.keyboard.press("Control+a");
  const folders = await app.get<{ path: string; total: number }[]>("/folders");
  await page.keyboard.press("f");
  await expect(page.getByRole("dialog")).toContainText(number(MESSAGES));
  await page.keyboard.press("Enter");
  await expect.poll(() => app.count("folder=Archive"), { timeout: 90_000 }).toBe(MESSAGES);
  await page.keyboard.press("u");
  await expect
    .poll(() => app.get("/folders"), { timeout: 90_000 })
    .toEqual(expect.arrayContaining(folders.map(({ path, total }) => expect.objectContaining({ path, total }))));
  expect(await app.count("pinned")).toBe(before);
});

test("however it is scrolled, no frame is blank, and a held key does not fall behind", async ({ page, app }) => {
  await openBench(page, app);
  await allMail(page);
  // Dragging the scroll bar: in every frame there are rows from the top of the list to its end.
  const blank = await page.evaluate(async () => {
    const box = document.getElementById("messages")!;
    const frame = () => new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
    let blanks = 0;
    for (let i = 0; i <= 60; i++) {
      box.scrollTop = (box.scrollHeight * ((i * 37) % 61)) / 61;
      await frame();
      const { top, bottom } = box.getBoundingClientRect();
      for (const y of [top + 20, (top + bottom) / 2, bottom - 20])
        if (!document.elementFromPoint(400, y)?.closest("[data-place]")) blanks++;
    }
    return blanks;
  });
  expect(blank).toBe(0);
  await page.keyboard.press("Home");
  for (let i = 0; i < 120; i++) await page.keyboard.down("PageDown");
  await page.keyboard.up("PageDown");
  const place = Number(await page.locator("[data-focused]").getAttribute("data-place"));
  expect(place).toBeGreaterThan(120 * 10);
  await page.keyboard.press("End");
  await expect(page.locator("[data-focused]")).toHaveAttribute("data-place", String(MESSAGES - 1));
});

test("the browser keeps the index between visits, and fetches only what changed since", async ({ page, app }) => {
  await openBench(page, app);
  await allMail(page);
  const id = await focusedId(page);
  // Written behind the first screen; there is no sign of it but the file.
  const kept = () =>
    page.evaluate(async () => {
      const folder = (await navigator.storage.getDirectory()) as unknown as { keys(): AsyncIterable<string> };
      for await (const name of folder.keys()) if (name.startsWith("index-") && !name.endsWith(".crswap")) return true;
      return false;
    });
  await expect.poll(kept).toBe(true);
  await page.goto("about:blank");
  const steps = [{ do: "trash" }];
  await app.fetch(`/runs`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ id: crypto.randomUUID(), macro: { name: "x", steps }, target: { ids: [Number(id)] } }),
  });
  const asked: string[] = [];
  page.on("request", (request) => request.url().includes("/api/v1/index") && asked.push(new URL(request.url()).search));
  await openBench(page, app);
  expect(asked.filter((one) => one.includes("since="))).toHaveLength(1);
  expect(asked.filter((one) => one.includes("limit=50000"))).toEqual([]);
  await allMail(page);
  await type(page, ";", "trash");
  await expect(page.locator(`[data-id="${id}"]`)).toHaveCount(1);
});
