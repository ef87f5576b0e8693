import type { Page } from "@playwright/test";
import { expect, focusedId, openBench, test } from "./app";

/** Away from the desk: by thumb, on screens of several widths, and with two fingers on a trackpad. */

const SCREENS = [
  "/",
  "/ledger",
  "/tasks",
  "/agenda",
  "/contacts",
  "/senders",
  "/accounts",
  "/places",
  "/workshop",
  "/templates",
  "/import",
  "/you",
  "/sign-in",
];

/** What stands out of the screen to the right, by its own words. */
const tooWide = (page: Page) =>
  page.evaluate(() => {
    const { clientWidth, scrollWidth } = document.documentElement;
    // Text may be cut, and what can be scrolled may be longer; what is to be pressed is neither.
    const isCut = (element: Element): boolean => {
      const ways = element.matches("button, input, select, textarea, a") ? /auto|scroll/ : /auto|scroll|hidden|clip/;
      for (let at: Element | null = element; at; at = at.parentElement)
        if (ways.test(getComputedStyle(at).overflowX)) return true;
      return false;
    };
    const out = [...document.querySelectorAll("body *")].filter(
      (element) => element.getBoundingClientRect().right > clientWidth + 1 && !isCut(element),
    );
    return [...(scrollWidth > clientWidth ? ["the page"] : []), ...out.map((one) => one.textContent!.slice(0, 40))];
  });

for (const [name, width, height] of [
  ["a small phone", 360, 740],
  ["a phone", 390, 844],
  ["a tablet", 820, 1180],
] as const)
  test.describe(`on ${name}`, () => {
    test.use({ viewport: { width, height }, hasTouch: true, isMobile: true });

    test("no screen is wider than it, and no field makes it zoom", async ({ page, app }) => {
      await openBench(page, app);
      for (const path of SCREENS) {
        await page.goto(app.address + path);
        await expect(page.locator("#main")).toBeVisible();
        expect(await tooWide(page), path).toEqual([]);
        const sizes = await page
          .locator("input, select, textarea")
          .evaluateAll((fields) => fields.map((field) => parseFloat(getComputedStyle(field).fontSize)));
        for (const size of sizes) expect(size, path).toBeGreaterThanOrEqual(16);
      }
      await page.goto(app.address);
      const row = page.locator("[data-place='1']");
      const { subject } = await app.get<{ subject: string }>(`/messages/${await row.getAttribute("data-id")}`);
      // What a message is about is to be read in its row.
      const shown = row.getByText(subject.trim().slice(0, 8), { exact: false }).last();
      expect((await shown.boundingBox())!.width).toBeGreaterThan(150);
      await page.locator("[data-place='0']").tap();
      await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
      expect(await tooWide(page)).toEqual([]);
    });
  });

test.describe("by thumb", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });

  test("a swipe whose macro asks opens its question as a sheet at the lower edge, and does it", async ({
    page,
    app,
  }) => {
    await openBench(page, app);
    const cdp = await page.context().newCDPSession(page);
    const box = (await page.locator("[data-place='1']").boundingBox())!;
    const touch = (type: "touchStart" | "touchMove" | "touchEnd", x?: number) =>
      cdp.send("Input.dispatchTouchEvent", {
        type,
        touchPoints: x === undefined ? [] : [{ x, y: box.y + box.height / 2 }],
      });
    await touch("touchStart", 350);
    // A thumb that takes its time: a flick would mean the long swipe.
    for (const x of [310, 270, 240]) {
      await touch("touchMove", x);
      await page.waitForTimeout(120);
    }
    await expect(page.locator("[data-strip]")).toHaveText("Defer");
    await touch("touchEnd");
    const sheet = page.getByRole("dialog");
    await expect(sheet).toBeVisible();
    const at = (await sheet.boundingBox())!;
    expect(at.x).toBe(0);
    expect(at.width).toBe(390);
    expect(Math.round(at.y + at.height)).toBe(844);
    await page.keyboard.type("tomorrow 9");
    await page.keyboard.press("Enter");
    await expect.poll(() => app.count("deferred")).toBe(1);
  });

  test("sixteen rows swiped one right after another are each decided, and each can be taken back", async ({
    page,
    app,
  }) => {
    await openBench(page, app);
    const inbox = await app.count("folder=Inbox");
    const cdp = await page.context().newCDPSession(page);
    const send = (type: "touchStart" | "touchMove" | "touchEnd", x: number, y: number) =>
      cdp.send("Input.dispatchTouchEvent", { type, touchPoints: type === "touchEnd" ? [] : [{ x, y }] });
    // The row that has the focus is the next one to decide: the thumb goes where it is.
    for (let i = 0; i < 16; i++) {
      const focused = page.locator("[data-focused]");
      const id = (await focusedId(page))!;
      const box = (await focused.boundingBox())!;
      const y = box.y + box.height / 2;
      await send("touchStart", 30, y);
      for (const x of [80, 180, 330]) await send("touchMove", x, y);
      await send("touchEnd", 330, y);
      await expect(focused).not.toHaveAttribute("data-id", id);
    }
    await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 16);
    // What is said of them is longer than the screen is wide, and pushes nothing out of it.
    expect(await tooWide(page)).toEqual([]);
    for (let i = 0; i < 16; i++) await page.getByRole("button", { name: "Undo" }).tap();
    await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  });

  test("a swipe is one also where the phone is busy for longer than a press takes", async ({ page, app }) => {
    await openBench(page, app);
    const inbox = await app.count("folder=Inbox");
    const cdp = await page.context().newCDPSession(page);
    const send = (type: "touchStart" | "touchMove" | "touchEnd", x: number, y: number) =>
      cdp.send("Input.dispatchTouchEvent", { type, touchPoints: type === "touchEnd" ? [] : [{ x, y }] });
    const box = (await page.locator("[data-focused]").boundingBox())!;
    const y = box.y + box.height / 2;
    // Once the finger is down, everything stands still for a while; what the finger does meanwhile waits.
    await page.evaluate(() => {
      const stall = () => {
        for (const end = performance.now() + 900; performance.now() < end;);
      };
      window.addEventListener("pointerdown", () => setTimeout(stall), { once: true });
    });
    await send("touchStart", 30, y);
    await Promise.all([...[80, 180, 330].map((x) => send("touchMove", x, y)), send("touchEnd", 330, y)]);
    await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  });

  test("a page made for a wide screen fits this one, all of it, and larger text makes it larger", async ({
    page,
    app,
  }) => {
    const { rows } = await app.get<{ rows: { id: number }[] }>("/messages?narrow=folder%3DLists&limit=60");
    let wide = 0;
    for (const { id } of rows) {
      const { html } = await app.get<{ html: string | null }>(`/messages/${id}`);
      if (html?.includes('width="564"')) wide = id;
    }
    await page.goto(`${app.address}/message/${wide}`);
    // The message stands there before its list does, and anew with it.
    await expect(page.getByRole("complementary", { name: "What was done" })).toBeVisible();
    const root = page.frameLocator("iframe[title='Message text']").locator("html");
    const widths = () => root.evaluate((html) => [html.scrollWidth, html.clientWidth] as const);
    await expect.poll(async () => (await widths()).reduce((all, shown) => all / shown)).toBe(1);
    expect((await widths())[1]).toBeLessThan(400);
    await page.keyboard.press("Shift+Period");
    await expect.poll(async () => (await widths()).reduce((all, shown) => all - shown)).toBeGreaterThan(0);
  });

  test("what a swipe runs is chosen on the phone itself", async ({ page, app }) => {
    await page.goto(`${app.address}/workshop`);
    const slot = page.getByRole("group", { name: "Swipes" }).getByLabel("right, long");
    await slot.scrollIntoViewIfNeeded();
    await slot.selectOption({ label: "Read or unread" });
    await expect(page.getByTestId("notice")).toContainText("Changed the swipe");
    await openBench(page, app);
    const row = page.locator("[data-place='0']");
    const before = await app.count("folder=Inbox & unread");
    const box = (await row.boundingBox())!;
    const cdp = await page.context().newCDPSession(page);
    for (const [type, x] of [
      ["touchStart", 30],
      ["touchMove", 120],
      ["touchMove", 320],
      ["touchEnd", null],
    ] as const)
      await cdp.send("Input.dispatchTouchEvent", {
        type,
        touchPoints: x === null ? [] : [{ x, y: box.y + box.height / 2 }],
      });
    await expect.poll(async () => Math.abs((await app.count("folder=Inbox & unread")) - before)).toBe(1);
  });
});

test("two fingers across a row on a trackpad do what a thumb does; down they scroll", async ({ page, app }) => {
  await openBench(page, app);
  const box = (await page.locator("[data-place='1']").boundingBox())!;
  await page.mouse.move(box.x + 200, box.y + box.height / 2);
  // One push across most of the row: its silence is its end, however slow the machine is.
  await page.mouse.wheel(-480, 2);
  await expect(page.locator("[data-place='1']")).toContainText("→ Archive");
  const trash = await app.count("folder=Trash");
  await page.mouse.wheel(0, 400);
  await expect.poll(() => page.locator("#messages").evaluate((list) => list.scrollTop)).toBeGreaterThan(0);
  await expect(page.locator("[data-strip]")).toHaveCount(0);
  expect(await app.count("folder=Trash")).toBe(trash);
});
