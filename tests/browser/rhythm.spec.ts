import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { counted, expect, focusedId, notice, openBench, test, type App } from "./app";

/** What one does all day: verdict after verdict, without being held up. */

const row = (page: Page, id: string | null) => page.locator(`[data-id="${id}"]`);
const idAt = (page: Page, place: number) => page.locator(`[data-place="${place}"]`).getAttribute("data-id");
const press = async (page: Page, ...keys: readonly string[]) => {
  for (const key of keys) await page.keyboard.press(key);
};
const choose = async (page: Page, key: string, text: string) => {
  await page.keyboard.press(key);
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
};
const post = (app: App, path: string, body: object, method = "POST") =>
  app
    .fetch(path, {
      method,
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
    })
    .then((response) => response.json());

test("a burst of thirty keys, every other one idle: each hits the message it is meant for", async ({ page, app }) => {
  const idle = await post(app, "/macros", {
    name: "Ferry only",
    steps: [{ do: "trash" }],
    settings: { for: "from~ferryman" },
  });
  const [deck] = await app.get<{ pads: { code: string; layer: string; macro: number }[] }[]>("/decks");
  const pads = deck!.pads.map((pad) =>
    pad.code === "KeyB" && pad.layer === "plain" ? { ...pad, macro: idle.id } : pad,
  );
  await post(app, "/decks/1", { pads }, "PATCH");
  await openBench(page, app);
  const ids = await Promise.all(Array.from({ length: 16 }, (_, i) => idAt(page, i)));
  const inbox = await app.count("folder=Inbox");
  for (let i = 0; i < 15; i++) await press(page, "f", "b");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 15);
  expect(await app.count("folder=Trash")).toBe(0);
  await page.keyboard.press("Home");
  for (let i = 0; i < 16; i += 2) await expect(row(page, ids[i]!)).toContainText("→ Archive");
  for (let i = 1; i < 16; i += 2) await expect(row(page, ids[i]!)).toContainText("not done: the macro is not for it");
  // They are counted, found by one press, and let go of by the next verdict on them.
  const left = page.getByRole("button", { name: "15 not done" });
  await left.click();
  expect(await focusedId(page)).toBe(ids[1]);
  await page.keyboard.press("d");
  await expect(page.getByRole("button", { name: "14 not done" })).toBeVisible();
  await expect(row(page, ids[1]!)).toContainText("→ Trash");
});

test("after a verdict the focus goes on, also where the message stays; a marker leaves it where it is", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  for (const key of ["q", "v", "t"]) {
    const before = Number(await page.locator("[data-focused]").getAttribute("data-place"));
    await page.keyboard.press(key);
    await expect(page.locator("[data-focused]")).toHaveAttribute("data-place", String(before + 1));
  }
  const id = await focusedId(page);
  await press(page, "c", "c");
  expect(await focusedId(page)).toBe(id);
  await expect.poll(() => app.count("marked")).toBe(1);
});

test("decided rows can be decided again, one by one and all that a run decided", async ({ page, app }) => {
  await openBench(page, app);
  const first = await idAt(page, 0);
  await page.keyboard.press("f");
  await press(page, "k", "d");
  await expect(row(page, first)).toContainText("→ Trash");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  await press(page, "Backspace", "Control+a", "v");
  const inbox = await counted(page);
  await press(page, "Control+a", "f");
  const line = page.locator("[data-head]").filter({ hasText: `Archive: ${inbox} from Inbox` });
  await expect(line).toHaveAttribute("aria-label", /decided, → Archive, folded/);
  await expect.poll(() => app.count("folder=Inbox & !deferred")).toBe(0);
  // It opens, and one key decides all of it again.
  await line.click();
  await expect(page.locator("[data-place='1']")).toContainText("→ Archive");
  await press(page, "Home", "d");
  await expect.poll(() => app.count("folder=Trash")).toBe(inbox + 1);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Inbox & !deferred")).toBe(inbox);
  await expect(line).toHaveCount(0);
});

test("deferred mail leaves the inbox, comes back by itself on top and marked, and settles like the rest", async ({
  page,
  app,
}) => {
  const DAY_MS = 86_400_000;
  const [later, past] = [Date.now() + 118 * DAY_MS, Date.now() - 21 * DAY_MS].map((ms) => new Date(ms));
  const [on, was] = [later!, past!].map((day) => day.toISOString().slice(0, 10));
  const dayOf = (day: Date, how: Intl.DateTimeFormatOptions) =>
    day.toLocaleDateString("en-GB", { ...how, day: "numeric", month: "short", timeZone: "UTC" }).replace(",", "");
  await openBench(page, app);
  await page.keyboard.press("End");
  const last = await focusedId(page);
  const second = await idAt(page, Number(await page.locator("[data-focused]").getAttribute("data-place")) - 1);
  await choose(page, "w", `${on} 9`);
  await press(page, "Home", "End");
  await choose(page, ";", "deferred");
  await expect(row(page, last)).toContainText(`until ${dayOf(later!, {})}`);
  // A time that has passed: the clock brings it back within seconds, wherever the window is.
  await post(app, "/runs", {
    id: crypto.randomUUID(),
    macro: { name: "x", steps: [{ do: "defer", until: `${was} 8:00` }] },
    target: { ids: [Number(second)] },
  });
  await choose(page, ";", "inbox");
  await expect(page.locator("[data-place='0']")).toHaveAttribute("data-id", second!);
  await expect(row(page, second)).toContainText(`back ${dayOf(past!, {})}`);
  await page.keyboard.press("Home");
  await expect(page.getByLabel("Message", { exact: true })).toContainText(
    new RegExp(`back: it was deferred until ${dayOf(past!, { weekday: "short" })}( \\d{4})?, 08:00`),
  );
  const [entry] = await app.get<{ actor: string; cause: string }[]>("/ledger?limit=1");
  expect(entry).toMatchObject({ actor: "clock", cause: "deferred" });
  // Decided, it is back no more.
  await page.keyboard.press("f");
  await expect.poll(() => app.count("returned")).toBe(0);
  // In Deferred, deciding leaves a decided row like elsewhere.
  await choose(page, ";", "deferred");
  await page.keyboard.press("2");
  await page.keyboard.press("w");
  await expect(row(page, last)).toContainText("→ Inbox");
  await expect.poll(() => app.count("deferred")).toBe(0);
  await press(page, "1", "Backspace");
  await expect(row(page, last)).toHaveCount(0);
});

test("a place is found as it was left, also after the page was loaded anew", async ({ page, app }) => {
  await openBench(page, app);
  await choose(page, ";", "bookings");
  await page.keyboard.press("\\");
  await choose(page, "Shift+Backslash", "groups by sender");
  await expect(page.locator("[data-head]").first()).toBeVisible();
  await press(page, "Home", "-");
  await choose(page, "/", "age>1d");
  await press(page, "j", "j", "j");
  const at = await page.locator("[data-focused]").getAttribute("id");
  const folded = page.locator('[data-head][aria-label$=", folded"]');
  await expect(folded).toHaveCount(1);
  await page.reload();
  await expect(page.locator("[data-focused]")).toBeVisible();
  await expect(page.getByRole("button", { name: /age>1d: drop this condition/ })).toBeVisible();
  await expect(page.getByRole("button", { name: "oldest first, groups by sender" })).toBeVisible();
  await expect(folded).toHaveCount(1);
  await expect(page.locator("[data-focused]")).toHaveAttribute("id", at!);
  await choose(page, ";", "weather");
  await expect(page.getByRole("button", { name: "newest first", exact: true })).toBeVisible();
  // One setting turns all places round that were not turned by hand.
  await page.goto(`${app.address}/places`);
  await page.getByLabel("Lists begin with the").selectOption("oldest");
  await expect(notice(page)).toContainText("Lists begin with the oldest now. U takes it back.");
  // On its way it arrives although the page is left, but a page that is opened meanwhile may be before it.
  await expect.poll(async () => (await app.get<{ order: string }>("/settings")).order).toBe("oldest");
  await openBench(page, app);
  await choose(page, ";", "press");
  await expect(page.getByRole("button", { name: "oldest first", exact: true })).toBeVisible();
});

test("narrowing shows at each key, keeps what is ticked, and says what it dropped; a colon is mended", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox & !deferred");
  const wardens = await app.count("folder=Inbox & !deferred & from~warden");
  await press(page, "i", "j", "i", "j", "i");
  await choose(page, "y", "all from this sender's domain");
  const ticked = Number(/^(\d+) of/.exec(await page.getByTestId("count").innerText())![1]);
  await page.keyboard.press("/");
  await page.keyboard.type("from~warden");
  await expect(page.getByTestId("count")).toHaveText(new RegExp(`of ${wardens} selected`));
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("count")).toHaveText(`${ticked} of ${inbox} selected`);
  await choose(page, "/", "from~warden");
  const kept = /^(\d+) of/.exec(await page.getByTestId("count").innerText());
  const still = kept ? Number(kept[1]) : 0;
  if (still < ticked && still > 0) await expect(notice(page)).toContainText(`${ticked - still} are not in this list`);
  // "," drops the condition, and stops at the place; Esc clears the ticks, once.
  await press(page, ",", ",");
  await expect(page.getByTestId("count")).toContainText(String(inbox));
  await expect(notice(page)).toContainText("no condition to drop");
  await page.keyboard.press("/");
  await page.keyboard.type("from:warden");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "from~" }).click();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "from~warden: drop this condition" })).toBeVisible();
});

test("Esc clears ticks and nothing else while there are any; H goes back and keeps them", async ({ page, app }) => {
  await openBench(page, app);
  await press(page, "i", "j", "i", "l", "h");
  await expect(page.getByTestId("count")).toContainText("2 of");
  await press(page, "l", "Escape");
  await expect(page.getByTestId("count")).toHaveText(/^\d+ messages$/);
});

test("what was opened counts as read after a moment, and the next key takes that back", async ({ page, app }) => {
  await post(app, "/settings", { readAfter: 0 }, "PATCH");
  await openBench(page, app);
  await choose(page, "/", "unread");
  const first = await focusedId(page);
  const unread = await app.count("folder=Inbox & !deferred & unread");
  await page.keyboard.press("l");
  await expect.poll(() => app.count("folder=Inbox & !deferred & unread")).toBe(unread - 1);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Inbox & !deferred & unread")).toBe(unread);
  // Undo of what was decided walks over what was only read.
  await page.keyboard.press("Escape");
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  await page.keyboard.press("l");
  await expect.poll(() => app.count("folder=Inbox & !deferred & unread")).toBe(unread - 2);
  await press(page, "j", "u");
  await expect.poll(() => app.count("folder=Trash")).toBe(0);
  expect(await row(page, first).count()).toBe(1);
  // Read what matters, throw away the rest: select unread, trash.
  // With the reader closed, nothing more is read by being looked at.
  await press(page, "Escape", ",");
  await choose(page, "y", "all unread");
  await expect(page.getByTestId("count")).toHaveText(/^[\d,]+ of [\d,]+ selected/);
  const rest = await counted(page);
  await expect.poll(() => app.count("folder=Inbox & !deferred & unread")).toBe(rest);
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Trash")).toBe(rest);
});

test("a thread macro keeps to its place, and leaves own mail alone", async ({ page, app }) => {
  const inThreads = new Map<number, number[]>();
  const { rows } = await app.get<{ rows: { id: number; thread: number }[] }>(
    "/messages?limit=500&narrow=folder%3DInbox",
  );
  for (const { id, thread } of rows) inThreads.set(thread, [...(inThreads.get(thread) ?? []), id]);
  // One with several messages in the inbox, and others elsewhere.
  let [id, inInbox] = [0, 0];
  for (const ids of inThreads.values()) {
    if (ids.length < 2) continue;
    const { threadRows } = await app.get<{ threadRows: unknown[] }>(`/messages/${ids[0]}`);
    if (threadRows.length > ids.length) [id, inInbox] = [ids[0]!, ids.length];
  }
  expect(inInbox).toBeGreaterThan(1);
  await openBench(page, app);
  const sent = await app.count("folder=Sent");
  const moved = await post(app, "/runs", {
    id: crypto.randomUUID(),
    macro: { name: "Thread", steps: [{ do: "archive" }], settings: { whole: "thread" } },
    target: { ids: [id] },
  });
  expect(moved.changed).toBe(inInbox);
  expect(await app.count("folder=Sent")).toBe(sent);
});

test("an exported selection is saved, and the screen stays", async ({ page, app }) => {
  await openBench(page, app);
  await press(page, "i", "j", "i", "j", "i");
  const coming = page.waitForEvent("download");
  await page.getByRole("button", { name: "export" }).click();
  await page.getByRole("menuitem", { name: "3 selected as one mbox file" }).click();
  const text = await readFile((await (await coming).path())!, "latin1");
  expect(text.match(/^From /gm)).toHaveLength(3);
  await expect(notice(page)).toContainText("Exported 3 messages");
  await expect(page.getByTestId("count")).toContainText("3 of");
});

test("a frame key is moved to another key, and back", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("Shift+Slash");
  await page.keyboard.type("next message");
  await page.getByRole("button", { name: "Put “next message” on another key than J" }).click();
  await page.keyboard.press("=");
  await expect(page.getByRole("dialog").locator("kbd", { hasText: /^=$/ })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.keyboard.press("=");
  await expect(page.locator("[data-focused]")).toHaveAttribute("data-place", "1");
  await page.keyboard.press("j");
  await expect(page.locator("[data-focused]")).toHaveAttribute("data-place", "1");
  await page.keyboard.press("Shift+Slash");
  await page.getByRole("button", { name: "Put them back" }).click();
  await expect(page.getByRole("button", { name: "Put them back" })).toHaveCount(0);
  await page.keyboard.press("Escape");
  await page.keyboard.press("j");
  await expect(page.locator("[data-focused]")).toHaveAttribute("data-place", "2");
});

test("settings made in places are taken back in order with what was done to mail", async ({ page, app }) => {
  await openBench(page, app);
  const archived = (await app.count("folder=Archive")) + 1;
  await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Archive")).toBe(archived);
  await page.getByRole("link", { name: "Places", exact: true }).click();
  await page.getByLabel("Trash keeps a message").selectOption("7");
  await expect(notice(page)).toContainText("Trash keeps mail for 7 days. U takes it back.");
  await page.getByRole("heading", { name: "Places" }).click();
  await page.keyboard.press("u");
  await expect(page.getByLabel("Trash keeps a message")).toHaveValue("30");
  expect(await app.count("folder=Archive")).toBe(archived);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Archive")).toBe(archived - 1);
  await page.keyboard.press("Shift+U");
  await expect.poll(() => app.count("folder=Archive")).toBe(archived);
  await page.keyboard.press("Shift+U");
  await expect(page.getByLabel("Trash keeps a message")).toHaveValue("7");
});

test.describe("on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });
  test("ticking, all, both layers, undo and times are in reach; hundreds are asked about", async ({ page, app }) => {
    await openBench(page, app);
    const inbox = await app.count("folder=Inbox & !deferred");
    const count = page.getByTestId("count");
    const cdp = await page.context().newCDPSession(page);
    const box = (await page.locator("[data-place='2']").boundingBox())!;
    await cdp.send("Input.dispatchTouchEvent", {
      type: "touchStart",
      touchPoints: [{ x: box.x + 100, y: box.y + 30 }],
    });
    await expect(count).toHaveText(`1 of ${inbox} selected`);
    await cdp.send("Input.dispatchTouchEvent", { type: "touchEnd", touchPoints: [] });
    // Once ticking has begun, a tap ticks.
    await page.locator("[data-place='4']").tap();
    await expect(count).toHaveText(`2 of ${inbox} selected`);
    await page.getByRole("button", { name: "All pads" }).tap();
    await page.getByRole("button", { name: "Urgent" }).tap();
    await expect.poll(() => app.count("marker=U")).toBe(2);
    await page.getByRole("button", { name: "Undo" }).tap();
    await expect.poll(() => app.count("marker=U")).toBe(0);
    await page.locator("[data-place='1']").tap();
    await page.getByRole("button", { name: "Back to the list" }).tap();
    await page.getByRole("button", { name: "All pads" }).tap();
    await page.getByRole("button", { name: "Defer", exact: true }).tap();
    await page.getByRole("button", { name: "next week" }).tap();
    await expect.poll(() => app.count("deferred")).toBe(1);
    // All, by one press; hundreds are asked about.
    const again = (await page.locator("[data-place='3']").boundingBox())!;
    await cdp.send("Input.dispatchTouchEvent", {
      type: "touchStart",
      touchPoints: [{ x: again.x + 100, y: again.y + 30 }],
    });
    await expect(count).toContainText("1 of");
    await cdp.send("Input.dispatchTouchEvent", { type: "touchEnd", touchPoints: [] });
    await page.getByRole("button", { name: "all", exact: true }).tap();
    await expect(count).toHaveText(`${inbox - 1} of ${inbox - 1} selected`);
    await page.getByRole("button", { name: "Archive", exact: true }).tap();
    await expect(page.getByRole("dialog")).toContainText(`${inbox - 1}`);
    await page.getByRole("button", { name: "Leave everything as it is" }).tap();
    expect(await app.count("folder=Inbox & !deferred")).toBe(inbox - 1);
    // The drawer closes when it has led somewhere.
    await page.getByRole("button", { name: "Places", exact: true }).tap();
    await page
      .getByLabel("Folders")
      .getByRole("button", { name: /^Weather/ })
      .tap();
    await expect(page.getByRole("button", { name: "Close places" })).toHaveCount(0);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  });
});

test("a day is chosen in the month by keys, which follows what is typed", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("w");
  const month = page.getByRole("table", { name: "Month" });
  await page.keyboard.type("1 dec 2027 8:30");
  await expect(month).toContainText("December 2027");
  await expect(month.getByRole("button", { pressed: true })).toHaveText("1");
  await press(page, "ArrowDown", "ArrowDown", "PageDown", "ArrowUp");
  await expect(month).toContainText("January 2028");
  await expect(month.getByRole("button", { pressed: true })).toHaveText("2");
  await page.keyboard.press("Enter");
  await expect.poll(() => app.count("deferred")).toBe(1);
  await choose(page, ";", "deferred");
  await expect(page.getByRole("region", { name: "Message" })).toContainText("comes back Sun, 2 Jan 2028, 08:30");
});
