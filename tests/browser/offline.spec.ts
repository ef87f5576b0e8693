import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { expect, focusedId, notice, openBench, test, type App } from "./app";
import { ROOT } from "./prepare";

/** Without a connection: what was kept opens, what is decided and written waits, and all of it goes once. */

/** Until the browser has what it needs: the pages, the index, and the texts of the inbox's next messages. */
async function kept(page: Page, texts: number): Promise<void> {
  await page.evaluate(() => navigator.serviceWorker.ready.then(() => true));
  const count = () => page.evaluate(async () => (await (await caches.open("tachyne-answers")).keys()).length);
  await expect.poll(count, { timeout: 60_000 }).toBeGreaterThanOrEqual(texts);
  const files = () =>
    page.evaluate(async () => {
      const names: string[] = [];
      const folder = (await navigator.storage.getDirectory()) as unknown as { keys(): AsyncIterable<string> };
      for await (const name of folder.keys()) names.push(name);
      return names.filter((name) => name.startsWith("index-")).length;
    });
  await expect.poll(files).toBeGreaterThanOrEqual(1);
}

const composer = (page: Page) => page.getByRole("region", { name: "Composer" });
const waiting = (page: Page, what: string) => expect(page.getByText(`server away${what}`)).toBeVisible();
const rowCount = (app: App, macro: string) =>
  app
    .get<{ kind: string; macro: { name: string }; state: string }[]>("/ledger?limit=100")
    .then((entries) => entries.filter((entry) => entry.kind === "run" && entry.macro.name.startsWith(macro)).length);

test("ten decisions and a letter without a connection, over a reload, and each goes once", async ({ page, app }) => {
  await openBench(page, app);
  await kept(page, 200);
  const inbox = await app.count("folder=Inbox");
  const sent = await app.count("folder=Sent");
  const first = await page.locator('[data-place="0"]').getAttribute("data-id");
  const ids = await page.locator("[data-place]").evaluateAll((rows) => rows.map((row) => row.getAttribute("data-id")!));
  const texts = new Map<string, string[]>();
  for (const id of ids) {
    const { text } = await app.get<{ text: string }>(`/messages/${id}`);
    texts.set(
      id,
      text.split("\n").filter((line) => line.length > 20),
    );
  }
  const top = async () => (await page.getByRole("main").boundingBox())!.y;
  const before = await top();
  await app.stop();
  for (let i = 0; i < 5; i++) await page.keyboard.press("f");
  await waiting(page, ", 5 waiting");
  await expect(page.getByTestId("away")).toContainText("No connection");
  await expect(page.getByTestId("away")).toBeInViewport({ ratio: 1 });
  // What says so moves nothing away from under a hand.
  expect(await top()).toBe(before);
  // A letter that answers the next one: what is typed at once is in it.
  await page.keyboard.press("r");
  await page.keyboard.type("Six beds are free.");
  await expect(composer(page).getByRole("textbox", { name: "Text" })).toContainText("Six beds are free.");
  await page.keyboard.press("Control+Enter");
  await expect(notice(page)).toContainText("sent once there is one");
  await expect(page.getByTestId("away")).toContainText("1 letter waits");
  await page.reload();
  await expect(page.locator('[data-place="0"]')).toBeVisible();
  await expect(page.locator(`[data-id="${first}"]`)).toHaveCount(0);
  await waiting(page, ", 6 waiting");
  await expect(page.getByTestId("away")).toContainText("1 letter waits");
  // The next one has its text, although this window never looked at it.
  await page.keyboard.press("Enter");
  const [line] = texts.get((await focusedId(page))!)!;
  await expect(page.getByRole("region", { name: "Message" })).toContainText(line!);
  await page.keyboard.press("Escape");
  for (let i = 0; i < 5; i++) await page.keyboard.press("d");
  await waiting(page, ", 11 waiting");
  await app.start();
  await expect(page.getByText(/^server away/)).toHaveCount(0);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 10);
  expect(await app.count("folder=Trash")).toBe(5);
  await expect.poll(() => app.count("folder=Sent | folder=Outbox")).toBe(sent + 1);
  expect(await rowCount(app, "Archive")).toBe(5);
  expect(await rowCount(app, "Trash")).toBe(5);
  expect(await rowCount(app, "Send")).toBe(1);
  expect(await app.count("folder=Drafts")).toBe(0);
  expect(await focusedId(page)).not.toBeNull();
});

test("a letter waiting without a connection is called back, and a half-written one is found after a reload", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await kept(page, 20);
  const drafts = await app.count("folder=Drafts");
  const sent = await app.count("folder=Outbox | folder=Sent");
  await app.stop();
  // The first key tells that the server is away.
  await page.keyboard.press("f");
  await waiting(page, ", 1 waiting");
  await page.keyboard.press("n");
  await expect(composer(page).getByRole("combobox", { name: "to", exact: true })).toBeFocused();
  await page.keyboard.type("warden@larchhuts.example");
  await page.keyboard.press("Enter");
  await expect(composer(page).getByRole("button", { name: /^to: / })).toHaveCount(1);
  await composer(page).getByLabel("subject").click();
  await page.keyboard.type("The stove");
  await composer(page).getByRole("textbox", { name: "Text" }).click();
  await page.keyboard.type("Dear warden, ");
  await page.keyboard.press("Control+Enter");
  await expect(notice(page)).toContainText("sent once there is one");
  await expect(composer(page)).toHaveCount(0);
  // Called back, it is as it was; this time it is left, and the window closed.
  await page.keyboard.press("u");
  await expect(composer(page).getByLabel("subject")).toHaveValue("The stove");
  await composer(page).getByRole("textbox", { name: "Text" }).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type("it smokes.");
  await page.keyboard.press("Escape");
  await expect(notice(page)).toContainText("goes to Drafts");
  await page.reload();
  await expect(page.locator('[data-place="0"]')).toBeVisible();
  await app.start();
  await expect(notice(page)).toContainText("kept in Drafts");
  await expect.poll(() => app.count("folder=Drafts")).toBe(drafts + 1);
  const [row] = (await app.get<{ rows: { id: number }[] }>("/messages?narrow=folder%3DDrafts&limit=1")).rows;
  const draft = await app.get<{ subject: string; to: { address: string }[]; body: unknown }>(`/drafts/${row!.id}`);
  expect(draft.subject).toBe("The stove");
  expect(draft.to.map(({ address }) => address)).toEqual(["warden@larchhuts.example"]);
  expect(JSON.stringify(draft.body)).toContain("Dear warden, it smokes.");
  expect(await app.count("folder=Outbox | folder=Sent")).toBe(sent);
});

test("every screen opens without a connection, says of when it is, and what is kept can be emptied", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await kept(page, 5);
  for (const path of ["/tasks", "/contacts"]) {
    await page.goto(app.address + path);
    await expect(page.locator("#main")).toBeVisible();
  }
  await app.stop();
  for (const [path, heading] of [
    ["/contacts", "Contacts"],
    ["/tasks", "Tasks"],
    ["/ledger", "Ledger"],
    ["/workshop", "Workshop"],
    ["/places", "Places"],
  ] as const) {
    await page.goto(app.address + path);
    await expect(page.getByRole("heading", { name: heading, level: 1 })).toBeVisible();
    await expect(page.getByTestId("away")).toContainText(/Shown as of \w+ \d+ \w+,? \d\d:\d\d/);
  }
  await expect(page.getByTestId("kept-here")).toContainText(/texts of [1-9]\d* messages/);
  await page.getByRole("button", { name: "Empty it" }).click();
  await expect(page.getByTestId("kept-here")).toContainText("texts of 0 messages");
  await page.goto(app.address);
  await expect(page.getByRole("alert").first()).toContainText("The server does not answer");
  await app.start();
  await expect(page.locator('[data-place="0"]')).toBeVisible();
});

test("a pass begun without a connection goes on over a reload, and the server has all of it afterwards", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await kept(page, 20);
  await app.stop();
  await page.keyboard.press("p");
  const counts = page.getByTestId("pass-counts");
  await expect(counts).toContainText("0 done");
  for (const key of ["f", "d", "j", "f"]) await page.keyboard.press(key);
  await expect(counts).toContainText("3 done");
  await expect(counts).toContainText("1 skipped");
  await page.reload();
  await expect(counts).toContainText("3 done");
  await expect(counts).toContainText("1 skipped");
  await page.keyboard.press("f");
  await expect(counts).toContainText("4 done");
  await app.start();
  const passes = () => app.get<{ decided: number; skipped?: number }[]>("/passes");
  await expect.poll(async () => (await passes()).map(({ decided }) => decided)).toEqual([4]);
  await page.reload();
  await expect(counts).toContainText("4 done");
});

test("what is decided while the browser's own store is busy outlives a reload", async ({ page, app }) => {
  await openBench(page, app);
  await kept(page, 20);
  const inbox = await app.count("folder=Inbox");
  await app.stop();
  // A writer that never ends: what comes after it waits, as it does for a moment on a slow disk.
  await page.evaluate(
    () =>
      new Promise<void>((begun) => {
        const opening = indexedDB.open("tachyne");
        opening.onsuccess = () => {
          const store = opening.result.transaction("decisions", "readwrite").objectStore("decisions");
          const spin = () => void (store.get("nothing").onsuccess = spin);
          spin();
          begun();
        };
      }),
  );
  for (const key of ["f", "f", "f"]) await page.keyboard.press(key);
  await waiting(page, ", 3 waiting");
  await page.reload();
  await waiting(page, ", 3 waiting");
  // What was taken over is kept anew: another reload has it too.
  await page.reload();
  await waiting(page, ", 3 waiting");
  await app.start();
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 3);
  expect(await rowCount(app, "Archive")).toBe(3);
  expect(await page.evaluate(() => Object.keys(localStorage).filter((key) => key.includes(" left ")))).toEqual([]);
});

test("a newer version is offered, and taken only when it is wanted", async ({ page, app }) => {
  const file = join(ROOT, "dist", "service-worker.js");
  const own = await readFile(file, "utf8");
  try {
    await openBench(page, app);
    await kept(page, 1);
    await page.keyboard.press("f");
    await writeFile(file, `${own}\n// another build`);
    // Looked at again, the window asks whether there is something newer.
    await page.evaluate(() => document.dispatchEvent(new Event("visibilitychange")));
    await expect(page.getByTestId("newer")).toBeVisible();
    await expect(page.locator('[data-place="0"]')).toContainText("→ Archive");
    await page.getByRole("button", { name: "Later" }).click();
    await expect(page.getByTestId("newer")).toHaveCount(0);
    await page.reload();
    await expect(page.getByTestId("newer")).toBeVisible();
    await Promise.all([page.waitForEvent("load"), page.getByRole("button", { name: "Load it" }).click()]);
    await expect(page.locator('[data-place="0"]')).toBeVisible();
    const waits = () => page.evaluate(async () => (await navigator.serviceWorker.ready).waiting === null);
    await expect.poll(waits).toBe(true);
  } finally {
    await writeFile(file, own);
  }
});

test("what was decided without a connection is done once the mailbox is read anew, also where no news tells of it", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await kept(page, 5);
  const inbox = await app.count("folder=Inbox");
  // News come after all decisions have been written: the window reads the mailbox then, and hears of none.
  let release = () => {};
  const released = new Promise<void>((resolve) => (release = resolve));
  await page.route("**/api/v1/events*", async (route) => {
    await released;
    await route.continue();
  });
  await app.stop();
  await page.reload();
  await expect(page.locator('[data-place="0"]')).toBeVisible();
  const [first, second] = await page
    .locator("[data-place]")
    .evaluateAll((rows) => rows.map((row) => row.getAttribute("data-id")!));
  await page.keyboard.press("d");
  await page.keyboard.press("f");
  await waiting(page, ", 2 waiting");
  await app.start();
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 2);
  await expect(page.getByText(/^server away/)).toHaveCount(0);
  release();
  const entries = page.getByTestId("ledger").locator("li");
  await expect(entries.filter({ hasText: "waiting" })).toHaveCount(0);
  await expect(entries.first()).toContainText("Archive");
  // Both can be taken back, the last first.
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  await expect(page.locator(`[data-id="${second}"]`)).not.toContainText("→");
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  await expect(page.locator(`[data-id="${first}"]`)).not.toContainText("→");
  await expect(entries.filter({ hasText: "waiting" })).toHaveCount(0);
});
