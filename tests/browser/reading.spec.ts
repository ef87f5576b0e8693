import type { Page } from "@playwright/test";
import { expect, openBench, test } from "./app";
import { axe, OF_COLOURS } from "./axe";

test("HTML mail is safe: no script, no request to anywhere, pictures only when asked for", async ({ page, app }) => {
  const evil = `<p>Hello</p><script>parent.hacked=1</script><img src="https://track.example/a.gif" onerror="parent.hacked=2"><a href="javascript:parent.hacked=3">x</a><svg onload="parent.hacked=4"></svg><style>@import url(https://track.example/s.css);p{background:url(https://track.example/b.png)}</style><iframe src="https://track.example/f"></iframe><form action="https://track.example/"><input name=pin></form><link rel=stylesheet href="https://track.example/l.css"><div style="background:url(https://track.example/c.png)">end</div>`;
  const mail = `From: a@post.example\nSubject: Evil page\nDate: ${new Date().toUTCString()}\nContent-Type: text/html; charset=utf-8\n\n${evil}\n`;
  await app.fetch(`/import?folder=Evil`, { method: "POST", body: mail });
  await expect.poll(() => app.get<{ total: number }>("/messages?narrow=subject~evil").then((r) => r.total)).toBe(1);
  const outside: string[] = [];
  page.on(
    "request",
    (request) =>
      !request.url().startsWith(app.address) &&
      !/^(data|blob|about):/.test(request.url()) &&
      outside.push(request.url()),
  );
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("Evil");
  await page.keyboard.press("Enter");
  const frame = page.frameLocator("iframe[title='Message text']");
  await expect(frame.getByText("end")).toBeVisible();
  expect(await frame.locator("script, iframe, form, input, svg, link").count()).toBe(0);
  expect(await page.evaluate(() => (window as { hacked?: number }).hacked)).toBeUndefined();
  expect(outside).toEqual([]);
  await page.route("https://track.example/**", (route) => route.fulfill({ status: 404 }));
  await page.getByRole("button", { name: "Show pictures" }).click();
  await expect.poll(() => outside).toEqual(["https://track.example/a.gif"]);
  // Keys mean the same when the frame has the focus.
  await frame.getByText("end").click();
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Evil")).toBe(0);
});

test("a page is never seen under the head of another message, however fast one goes", async ({ page, app }) => {
  const mail = (n: number, type: string, body: string) =>
    `From: a@post.example\nSubject: Sheet ${n}\nDate: ${new Date(Date.now() - n * 60_000).toUTCString()}\nContent-Type: ${type}; charset=utf-8\n\n${body}\n`;
  const picture = '<img src="https://track.example/a.gif" alt="">';
  for (let n = 1; n <= 6; n++) {
    const body =
      n % 3 === 0 ? mail(n, "text/plain", `Sheet ${n}`) : mail(n, "text/html", `<p>Sheet ${n}</p>${picture}`);
    await app.fetch(`/import?folder=Sheets`, { method: "POST", body });
  }
  await expect.poll(() => app.count("folder=Sheets")).toBe(6);
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("Sheets");
  await page.keyboard.press("Enter");
  const frame = page.frameLocator("iframe[title='Message text']");
  await expect(frame.getByText("Sheet 1")).toBeVisible();
  await page.evaluate(() => {
    const seen: string[] = [];
    Object.assign(window, { seen });
    const look = () => {
      const shown = document.querySelector("iframe[title='Message text']") as HTMLIFrameElement;
      const head = document.querySelector("section[aria-label=Message] h1")?.textContent ?? "";
      const text = shown.contentDocument?.body?.innerText.trim() ?? "";
      const isVisible = getComputedStyle(shown).visibility === "visible" && shown.clientHeight > 0;
      if (isVisible && text !== head) seen.push(`${text} under ${head}`);
      requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  });
  const region = page.getByRole("region", { name: "Message" });
  for (const keys of ["jjjjj", "kkkkk", "jkjkjjkk"]) for (const key of keys) await page.keyboard.press(key);
  await expect(frame.getByText("Sheet 1")).toBeVisible();
  for (const n of [2, 3, 4]) {
    await page.keyboard.press("j");
    await expect(n === 3 ? region.getByText("Sheet 3").last() : frame.getByText(`Sheet ${n}`)).toBeVisible();
    // What was allowed for one is not allowed for the next.
    const allows = page.getByRole("button", { name: "Show pictures" });
    if (n !== 3) await expect(allows).toBeVisible();
    if (n === 2) await allows.click();
    if (n === 2) await expect(allows).toBeHidden();
  }
  // Nor is it for the same one, once another was looked at.
  for (let n = 0; n < 2; n++) await page.keyboard.press("k");
  await expect(frame.getByText("Sheet 2")).toBeVisible();
  await expect(page.getByRole("button", { name: "Show pictures" })).toBeVisible();
  expect(await page.evaluate(() => (window as unknown as { seen: string[] }).seen)).toEqual([]);
});

test("plain text, headers, source, attachments and the thread are there", async ({ page, app }) => {
  const { rows } = await app.get<{ rows: { id: number; subject: string }[] }>(
    "/messages?limit=1&order=newest&narrow=" + encodeURIComponent("folder=Supplies attachment invoice"),
  );
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("Supplies");
  await page.keyboard.press("Enter");
  await page.keyboard.press("/");
  await page.keyboard.type("attachment invoice");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(rows[0]!.subject);
  const download = page.waitForEvent("download");
  await page.getByRole("list", { name: "Attachments" }).getByRole("link").first().click();
  expect((await download).suggestedFilename()).toMatch(/\.pdf$/);
  await page.getByRole("button", { name: "Headers" }).click();
  await expect(page.getByText("Message-ID")).toBeVisible();
  await page.getByRole("button", { name: "Source" }).click();
  await expect(page.getByText("MIME-Version: 1.0")).toBeVisible();
});

const VIEWS = [
  ["bench", "/"],
  ["workshop", "/workshop"],
  ["import", "/import"],
  ["ledger", "/ledger"],
  ["tasks", "/tasks"],
  ["agenda", "/agenda"],
  ["templates", "/templates"],
  ["contacts", "/contacts"],
  ["senders", "/senders"],
  ["accounts", "/accounts"],
] as const;

test("axe finds nothing on any view, by day and by night", async ({ page, app }) => {
  const check = async (what: string) => {
    await page.emulateMedia({ colorScheme: "light" });
    await expect(page.locator("html")).toHaveAttribute("data-theme", "day");
    await axe(page, `${what} by day`);
    await page.emulateMedia({ colorScheme: "dark" });
    await expect(page.locator("html")).toHaveAttribute("data-theme", "night");
    await axe(page, `${what} by night`, OF_COLOURS);
  };
  for (const [name, path] of VIEWS) {
    await page.goto(app.address + path);
    await expect(page.locator("[data-place], [data-ready]").first()).toBeVisible();
    await check(name);
  }
  await openBench(page, app);
  await page.keyboard.press("f");
  await page.keyboard.press("i");
  await check("bench with a decided and a ticked row");
  for (const key of [";", "Shift+?", "a", "g"]) {
    await page.keyboard.press(key);
    await expect(page.getByRole("dialog")).toBeVisible();
    await check(`dialog of ${key}`);
    await page.keyboard.press("Escape");
    await expect(page.getByRole("dialog")).toHaveCount(0);
  }
  await page.keyboard.press("r");
  await expect(page.getByRole("region", { name: "Composer" })).toHaveAttribute("data-ready", "true");
  await check("composer");
  await page.keyboard.press("Control+Enter");
  await expect(page.getByRole("region", { name: "Composer" }).getByRole("alert")).toBeVisible();
  await check("composer with a mistake");
});

test("day and night are the machine's own until one is chosen, which every window follows", async ({ page, app }) => {
  await page.emulateMedia({ colorScheme: "light" });
  await openBench(page, app);
  const shown = (of: Page) => expect(of.locator("html"));
  await shown(page).toHaveAttribute("data-theme", "day");
  await page.emulateMedia({ colorScheme: "dark" });
  await shown(page).toHaveAttribute("data-theme", "night");
  await page.getByRole("button", { name: "By day" }).click();
  await shown(page).toHaveAttribute("data-theme", "day");
  const second = await page.context().newPage();
  await second.emulateMedia({ colorScheme: "dark" });
  await openBench(second, app);
  await shown(second).toHaveAttribute("data-theme", "day");
  await second.getByRole("button", { name: "By night" }).click();
  await shown(page).toHaveAttribute("data-theme", "night");
  await expect(page.getByRole("button", { name: "By day" })).toBeVisible();
  await page.emulateMedia({ colorScheme: "light" });
  await shown(page).toHaveAttribute("data-theme", "night");
});

test.describe("on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true });
  test("the list, a message and the pads are all in reach of a thumb", async ({ page, app }) => {
    await page.goto(app.address);
    await page.locator("[data-place='2']").tap();
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    await page.getByRole("button", { name: "Back to the list" }).tap();
    const inbox = await app.count("folder=Inbox");
    await page.getByRole("button", { name: "Archive", exact: true }).tap();
    await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
    await page.getByRole("button", { name: "All pads" }).tap();
    await page.getByRole("button", { name: "Make task" }).tap();
    await expect.poll(() => app.count("folder=Inbox & flagged")).toBe(1);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  });

  test("a long press ticks, and the count has its row; what could be meant stays on the screen", async ({
    page,
    app,
  }) => {
    await openBench(page, app);
    const total = await app.count("folder=Inbox & !deferred");
    const count = page.getByTestId("count");
    await expect(count).toHaveText(`${total} messages`);
    const cdp = await page.context().newCDPSession(page);
    const box = (await page.locator("[data-place='2']").boundingBox())!;
    const touchPoints = [{ x: box.x + 100, y: box.y + 30 }];
    await cdp.send("Input.dispatchTouchEvent", { type: "touchStart", touchPoints });
    await expect(count).toHaveText(`1 of ${total} selected`);
    await cdp.send("Input.dispatchTouchEvent", { type: "touchEnd", touchPoints: [] });
    await page.getByRole("button", { name: "select by…" }).tap();
    await page.getByRole("option", { name: /^invert/ }).tap();
    await expect(count).toHaveText(`${total - 1} of ${total} selected`);
    await page.getByRole("button", { name: "clear", exact: true }).tap();
    await expect(count).toHaveText(`${total} messages`);
    await page.getByRole("combobox", { name: "Narrow further" }).tap();
    await page.keyboard.type("fo");
    const offers = (await page.getByRole("listbox", { name: "What could be meant" }).boundingBox())!;
    expect(offers.x).toBeGreaterThanOrEqual(0);
    expect(offers.x + offers.width).toBeLessThanOrEqual(390);
  });

  test("a row follows the finger, says what letting go would do, and does it; sliding back does nothing", async ({
    page,
    app,
  }) => {
    await page.goto(app.address);
    await expect(page.locator("[data-place]").first()).toBeVisible();
    const cdp = await page.context().newCDPSession(page);
    const row = page.locator("[data-place='1']");
    const box = (await row.boundingBox())!;
    const y = box.y + box.height / 2;
    const touch = (type: "touchStart" | "touchMove" | "touchEnd", x?: number) =>
      cdp.send("Input.dispatchTouchEvent", { type, touchPoints: x === undefined ? [] : [{ x, y }] });
    const swipe = async (from: number, ...to: number[]) => {
      await touch("touchStart", from);
      for (const x of to) {
        await touch("touchMove", x);
        await page.waitForTimeout(120);
      }
    };
    const inbox = await app.count("folder=Inbox");
    await swipe(40, 80, 150);
    await expect(page.locator("[data-strip]")).toHaveText("Owe a reply");
    await touch("touchMove", 300);
    await expect(page.locator("[data-strip]")).toHaveText("Archive");
    await touch("touchMove", 60);
    await page.waitForTimeout(120);
    await touch("touchEnd");
    await expect(page.locator("[data-strip]")).toHaveCount(0);
    expect(await app.count("folder=Inbox")).toBe(inbox);
    await swipe(350, 300, 200, 100);
    await expect(page.locator("[data-strip]")).toHaveText("Trash");
    await touch("touchEnd");
    await expect.poll(() => app.count("folder=Trash")).toBe(1);
  });
});
