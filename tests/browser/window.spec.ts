import type { Page } from "@playwright/test";
import { expect, focusedId, notice, openBench, test } from "./app";

/** What a window does when something goes wrong beside it: a decision that cannot be done, news it cannot read. */

const runs = "**/api/v1/runs";
const aside = (page: Page) => page.getByTestId("aside");
const broken = { status: 500, contentType: "application/problem+json", body: JSON.stringify({ detail: "It broke." }) };

test("a decision the server fails on is set aside, and those after it go on; it is tried again or thrown away", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  const first = await focusedId(page);
  const isFirst = (body: string | null) => body?.includes(`[${first}]`) === true;
  await page.route(runs, (route) => (isFirst(route.request().postData()) ? route.fulfill(broken) : route.continue()));
  await page.keyboard.press("d");
  await page.keyboard.press("f");
  await page.keyboard.press("f");
  await expect(aside(page)).toContainText("1 decision could not be done");
  // The others are done, and the first is where it was.
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 2);
  await expect(page.locator(`[data-id="${first}"]`)).not.toContainText("→ Trash");
  expect(await app.count("folder=Trash")).toBe(0);

  // It outlives the window, and is not sent by itself.
  await page.reload();
  await expect(aside(page)).toContainText("1 decision could not be done");
  await page.unroute(runs);
  expect(await app.count("folder=Trash")).toBe(0);
  await aside(page).getByRole("button").click();
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("Trash on 1 message");
  await expect(dialog).toContainText("It broke.");
  // The first button has the focus.
  await page.keyboard.press("Enter");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  await expect(aside(page)).toHaveCount(0);
  await expect(dialog).toHaveCount(0);
});

test("a refusal is set aside with the server's words, and thrown away for good", async ({ page, app }) => {
  await openBench(page, app);
  await page.route(runs, (route) =>
    route.fulfill({ ...broken, status: 422, body: JSON.stringify({ type: "about:blank", detail: "Not like this." }) }),
  );
  await page.keyboard.press("d");
  await expect(aside(page)).toBeVisible();
  await aside(page).getByRole("button").click();
  await expect(page.getByRole("dialog")).toContainText("Not like this.");
  await page.keyboard.press("Tab");
  await page.keyboard.press("Enter");
  await expect(aside(page)).toHaveCount(0);
  await page.unroute(runs);
  await page.reload();
  await expect(page.locator("[data-place]").first()).toBeVisible();
  await expect(aside(page)).toHaveCount(0);
  expect(await app.count("folder=Trash")).toBe(0);
});

test("undo passes over what was deleted for good, says so once, and takes back the run before", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  await page.keyboard.press("Shift+D");
  await page.getByRole("dialog").getByRole("button", { name: "Delete 1 for good" }).click();
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 2);
  await page.keyboard.press("u");
  await expect(notice(page)).toContainText("“Delete for good” cannot be taken back. Took back: Archive");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  // The second time it is not said again, and there is nothing else.
  await page.keyboard.press("u");
  await expect(notice(page)).toHaveText("There is nothing to take back.");
});

test("undo goes on to the run before where what it meant is gone by now", async ({ page, app }) => {
  await openBench(page, app);
  const archived = await app.count("folder=Archive");
  await page.keyboard.press("f");
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  // Another window empties the trash; this one is not told what that means for its runs.
  const { rows } = await app.get<{ rows: { id: number }[] }>("/messages?narrow=folder%3DTrash");
  await app.fetch(`/runs`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      id: crypto.randomUUID(),
      macro: { name: "Emptied", steps: [{ do: "delete for good" }] },
      target: { ids: rows.map((row) => row.id) },
    }),
  });
  await expect.poll(() => app.count("folder=Trash")).toBe(0);
  await expect(page.getByTestId("ledger")).toContainText("Emptied");
  const entries = (await app.get<unknown[]>("/ledger?limit=100")).length;
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Archive")).toBe(archived);
  await expect(notice(page)).toContainText("Took back: Archive");
  // One entry, for the run that was taken back.
  expect(await app.get<unknown[]>("/ledger?limit=100")).toHaveLength(entries + 1);
});

test("deleting for good in a macro that another one runs asks first, with the count", async ({ page, app }) => {
  const make = (name: string, steps: object[]) =>
    app.fetch(`/macros`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ name, steps }),
    });
  await make("Clear out", [{ do: "read" }, { do: "run macro", macro: "Delete for good" }]);
  await openBench(page, app);
  const all = await app.count("");
  await page.keyboard.press("'");
  await page.keyboard.type("clear out");
  await page.keyboard.press("Enter");
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("1 message will be deleted for good");
  await page.keyboard.press("Escape");
  await expect(dialog).toHaveCount(0);
  expect(await app.count("")).toBe(all);
});

test("news that cannot be applied makes the window read what changed", async ({ page, app }) => {
  const { seq } = await app.get<{ seq: number }>("/home");
  let spoilt = false;
  await page.route("**/api/v1/events**", (route) => {
    if (spoilt) return route.continue();
    spoilt = true;
    const data = JSON.stringify({ kind: "run", id: crypto.randomUUID(), seq: seq + 1, change: { v: 99 } });
    return route.fulfill({
      contentType: "text/event-stream",
      body: `id: ${seq + 1}\nevent: written\ndata: ${data}\n\n`,
    });
  });
  // The write that the spoilt news are of: the window connects after it has begun to read.
  const { rows } = await app.get<{ rows: { id: number }[] }>("/messages?narrow=folder%3DInbox&order=newest&limit=1");
  const home = page.waitForResponse("**/api/v1/home");
  const caughtUp = page.waitForResponse(/\/api\/v1\/index\?since=/);
  await page.goto(app.address);
  await home;
  await app.fetch(`/runs`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      id: crypto.randomUUID(),
      macro: { name: "Elsewhere", steps: [{ do: "archive" }] },
      target: { ids: [rows[0]!.id] },
    }),
  });
  await caughtUp;
  await expect(page.locator(`[data-id="${rows[0]!.id}"]`)).toHaveCount(0);
  await expect(page.getByTestId("ledger")).toContainText("Elsewhere");
});

test("what is decided elsewhere about mail whose rows are just being read is seen", async ({ page, context, app }) => {
  const other = await context.newPage();
  await openBench(other, app);
  await openBench(page, app);
  let asked = false;
  let release: () => void = () => {};
  const released = new Promise<void>((resolve) => (release = resolve));
  // As they were when they were asked for, and long on their way.
  await page.route(/\/api\/v1\/index\?.*ids=/, async (route) => {
    const response = await route.fetch();
    asked = true;
    await released;
    await route.fulfill({ response });
  });
  const letter = (n: number) =>
    `From x@y.example Fri Nov 27 00:00:00 2026\r\nFrom: Slope Radio <radio@slope.example>\r\nTo: bookings@larchhuts.example\r\n` +
    `Subject: Programme ${n}\r\nDate: ${new Date().toUTCString()}\r\nMessage-ID: <p${n}@slope.example>\r\n\r\nOn air.\r\n\r\n`;
  await app.fetch(`/import?folder=Inbox`, { method: "POST", body: letter(1) + letter(2) });
  await expect.poll(() => asked).toBe(true);
  await other.getByRole("option", { name: /Programme 1/ }).click();
  await other.keyboard.press("f");
  await expect.poll(() => app.count('subject="Programme 1" & folder=Archive')).toBe(1);
  await expect(other.getByTestId("ledger").locator("li").first()).not.toContainText("waiting");
  release();
  await expect(page.getByRole("option", { name: /Programme 2/ })).toBeVisible();
  await expect(page.getByTestId("ledger")).toContainText("Programme 1");
  await expect(page.getByRole("option", { name: /Programme 1/ })).toHaveCount(0);
});

test("what another person's window decided is never sent by this one", async ({ page, app }) => {
  await openBench(page, app);
  const all = await app.count("folder=Trash");
  const decision = {
    kind: "run",
    id: crypto.randomUUID(),
    at: new Date().toISOString(),
    macro: { name: "Theirs", steps: [{ do: "trash" }] },
    ids: [Number(await focusedId(page))],
    answers: {},
  };
  const { token } = (await app.get<{ person: { token: string } }>("/home")).person;
  /** Keeps decisions as a window that is gone would have. */
  const keep = (owner: string) =>
    page.evaluate(
      ([key, kept]) =>
        new Promise<void>((resolve, reject) => {
          const open = indexedDB.open("tachyne");
          open.onupgradeneeded = () => open.result.createObjectStore("decisions");
          open.onerror = () => reject(open.error);
          open.onsuccess = () => {
            const write = open.result.transaction("decisions", "readwrite");
            write.objectStore("decisions").put(kept, key);
            write.oncomplete = () => resolve();
          };
        }),
      [`${owner} gone`, { waiting: [decision], aside: [] }] as const,
    );
  await keep(crypto.randomUUID());
  await page.reload();
  await openBench(page, app);
  // A decision of one's own goes out; the other's stays where it is.
  await page.keyboard.press("f");
  await expect
    .poll(() => app.get<{ macro: { name: string } }[]>("/ledger?limit=5"))
    .toMatchObject([{ macro: { name: "Archive" } }]);
  expect(await app.count("folder=Trash")).toBe(all);
  // Under this mailbox's token the same decision is taken over: it was the owner that kept it from being sent.
  await keep(token);
  await page.reload();
  await expect.poll(() => app.count("folder=Trash")).toBe(all + 1);
});

test("while the mailbox is read, all means what is counted, and a macro on threads waits and says so at its row", async ({
  page,
  context,
  app,
}) => {
  const settings = { whole: "thread" };
  await page.request.post(`${app.address}/api/v1/macros`, {
    data: { name: "Put away whole", colour: "slate", steps: [{ do: "archive" }], settings },
  });
  let release: () => void = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  await context.route(/\/api\/v1\/index\?(?!.*narrow=)/, async (route) => {
    await held;
    await route.continue();
  });
  await page.goto(app.address);
  await expect(page.getByText(/^read [\d,]+ of/)).toBeVisible();
  const id = await focusedId(page);
  const putAway = async () => {
    await page.keyboard.press("'");
    await page.keyboard.type("put away whole");
    await page.keyboard.press("Enter");
  };
  await putAway();
  const row = page.locator(`[data-id="${id}"]`);
  await expect(row).toContainText("not done");
  await expect(notice(page)).toContainText("still being read");
  expect(await focusedId(page)).not.toBe(id);
  // Of all mail only the inbox is here.
  const inbox = await app.count("folder=Inbox");
  const answered = page.waitForResponse(runs);
  await page.keyboard.press(";");
  await page.keyboard.type("all mail");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Control+a");
  await expect(page.getByTestId("count")).toHaveText(`${inbox} of ${inbox} selected`);
  await page.keyboard.press("'");
  await page.keyboard.type("pin");
  await page.keyboard.press("Enter");
  expect((await answered).ok()).toBe(true);
  expect(await app.count("pinned")).toBe(inbox);
  release();
  await expect(page.getByText(/^read [\d,]+ of/)).toHaveCount(0);
  await page.keyboard.press(";");
  await page.keyboard.type("inbox");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Home");
  await expect.poll(() => focusedId(page)).toBe(id);
  await putAway();
  await expect(row).toContainText("→ Archive");
});
