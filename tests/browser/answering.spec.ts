import type { Page } from "@playwright/test";
import type { App } from "./app";
import { expect, focusedId, notice, openBench, test } from "./app";

interface Row {
  readonly id: number;
  readonly thread: number;
  readonly subject: string;
  readonly folder: string;
}

const rows = async (app: App, narrow: string): Promise<readonly Row[]> =>
  (await app.get<{ rows: readonly Row[] }>(`/messages?narrow=${encodeURIComponent(narrow)}&order=newest&limit=200`))
    .rows;
const folderOf = async (app: App, id: number) => (await app.get<Row>(`/messages/${id}`)).folder;
const send = async (app: App, method: string, path: string, body: object) => {
  const answer = await app.fetch(path, {
    method,
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
  expect(answer.ok, `${method} ${path}: ${answer.status}`).toBe(true);
  return answer.status === 204 ? null : ((await answer.json()) as unknown);
};
const composer = (page: Page) => page.getByRole("region", { name: "Composer" });
const ready = (page: Page) => expect(composer(page)).toHaveAttribute("data-ready", "true");
const received = async (app: App) => (await app.get<{ received: number }>("/simulator")).received;

test("one key answers with a template, is called back by one key, and goes; the answer comes by itself", async ({
  page,
  app,
}) => {
  await send(app, "PATCH", "/simulator", { answers: 1, bounces: 0, answerAfter: 0 });
  await send(app, "PATCH", "/settings", { holdSeconds: 120 });
  await openBench(page, app);
  const id = Number(await focusedId(page));
  const before = await received(app);
  await page.keyboard.press("e");
  await expect(notice(page)).toContainText("1 letter in the outbox");
  await expect.poll(() => folderOf(app, id)).toBe("Archive");
  await expect.poll(() => app.count("folder=Outbox")).toBe(1);
  // The key that takes back takes all of it back: nothing has gone.
  await page.keyboard.press("u");
  await expect.poll(() => folderOf(app, id)).toBe("Inbox");
  await expect.poll(() => app.count("folder=Outbox")).toBe(0);
  expect(await received(app)).toBe(before);
  await page.keyboard.press("e");
  await expect.poll(() => app.count("folder=Outbox")).toBe(1);
  // In the outbox it stands for what it is, and can be let go at once.
  await page.keyboard.press(";");
  await page.keyboard.type("outbox");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-focused]")).toContainText(/leaves in \d+ s|leaves now/);
  await page.getByRole("button", { name: "Send now" }).click();
  await expect.poll(() => received(app)).toBe(before + 1);
  await expect.poll(() => app.count("folder=Outbox")).toBe(0);
  const { thread } = await app.get<Row>(`/messages/${id}`);
  await expect
    .poll(async () => (await rows(app, "folder=Inbox")).filter((row) => row.thread === thread && row.id !== id).length)
    .toBe(1);
  expect((await rows(app, "answered & folder=Archive")).map((row) => row.id)).toContain(id);
});

test("an answer is written by keys alone; the macro that waits for it goes on when it is sent", async ({
  page,
  app,
}) => {
  await send(app, "PATCH", "/settings", { holdSeconds: 120 });
  await openBench(page, app);
  const id = Number(await focusedId(page));
  await send(app, "POST", "/macros", {
    name: "Answer and file",
    steps: [{ do: "reply" }, { do: "flag", due: "+3d" }, { do: "move", to: "Bookings" }],
  });
  await page.keyboard.press("'");
  await page.keyboard.type("answer and file");
  await expect(page.getByRole("option", { name: "Answer and file" })).toBeVisible();
  await page.keyboard.press("Enter");
  // What is typed at once is there, also before the server has begun the draft.
  await page.keyboard.type("That suits us well.");
  await ready(page);
  await expect(composer(page)).toContainText("then “Answer and file” goes on");
  await expect(composer(page).getByRole("textbox", { name: "Text" })).toContainText("That suits us well.");
  await expect(page.getByTestId("saved")).toHaveText("stored");
  expect(await folderOf(app, id)).toBe("Inbox");
  // Left, it is a draft like any other, with a count; opened, it is as it was left.
  await page.keyboard.press("Escape");
  await expect(composer(page)).toHaveCount(0);
  await expect(notice(page)).toContainText("kept in Drafts");
  await page.keyboard.press(";");
  await page.keyboard.type("drafts");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toHaveText("1 message");
  await expect(page.locator("[data-focused]")).toContainText("draft");
  await page.keyboard.press("Enter");
  await ready(page);
  await expect(composer(page).getByRole("textbox", { name: "Text" })).toContainText("That suits us well.");
  await page.keyboard.press("Control+Enter");
  await expect(composer(page)).toHaveCount(0);
  await expect.poll(() => folderOf(app, id)).toBe("Bookings");
  await expect(notice(page)).toContainText("U calls it back");
  // Called back, it stands in the composer as it was, and what went on is undone.
  await page.keyboard.press("u");
  await ready(page);
  await expect(composer(page).getByRole("textbox", { name: "Text" })).toContainText("That suits us well.");
  await expect.poll(() => folderOf(app, id)).toBe("Inbox");
  await page.keyboard.type("Indeed. ");
  await page.keyboard.press("Control+Enter");
  await expect.poll(() => folderOf(app, id)).toBe("Bookings");
  await expect.poll(() => app.count("folder=Outbox")).toBe(1);
});

test("a letter that is left at once is a draft or nothing, and never opens by itself", async ({ page, app }) => {
  await openBench(page, app);
  const drafts = await app.count("folder=Drafts");
  // Before the server has begun it.
  await page.keyboard.press("r");
  await page.keyboard.press("Escape");
  await expect(composer(page)).toHaveCount(0);
  await expect(notice(page)).toContainText("kept in Drafts");
  await expect.poll(() => app.count("folder=Drafts")).toBe(drafts + 1);
  await expect(composer(page)).toHaveCount(0);
  await page.keyboard.press("n");
  await ready(page);
  await page.keyboard.press("Escape");
  await expect(notice(page)).toContainText("Nothing was written: the draft is gone.");
  await expect.poll(() => app.count("folder=Drafts")).toBe(drafts + 1);
  await expect(composer(page)).toHaveCount(0);
});

test("a letter sent before the answer to its key has come is one letter, and does not open again", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  let release: () => void = () => {};
  const released = new Promise<void>((resolve) => (release = resolve));
  // What was written is told at once; the answer to the request itself is held up.
  await page.route(
    "**/api/v1/runs",
    async (route) => {
      const response = await route.fetch();
      await released;
      await route.fulfill({ response });
    },
    { times: 1 },
  );
  const drafts = await app.count("folder=Drafts");
  const sent = await app.count("folder=Sent | folder=Outbox");
  await page.keyboard.press("r");
  await page.keyboard.type("Six beds are free.");
  await expect.poll(() => app.count("folder=Drafts")).toBe(drafts + 1);
  await page.keyboard.press("Control+Enter");
  await expect.poll(() => app.count("folder=Sent | folder=Outbox")).toBe(sent + 1);
  expect(await app.count("folder=Drafts")).toBe(drafts);
  const answered = page.waitForResponse("**/api/v1/runs");
  release();
  await answered;
  await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Archive")).toBeGreaterThan(0);
  await expect(composer(page)).toHaveCount(0);
  expect(await app.count("folder=Drafts")).toBe(drafts);
});

test("mistakes are caught before a letter goes, each with what mends it", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("n");
  await ready(page);
  await page.keyboard.press("Control+Enter");
  await expect(composer(page).getByRole("alert")).toContainText("It goes to nobody yet");
  await composer(page).getByRole("button", { name: "Say to whom" }).click();
  await page.keyboard.type("ines@larch.example, Bo Marsh <bo@larch.example>; not an address,");
  await expect(composer(page).getByRole("button", { name: /^to: / })).toHaveCount(3);
  await page.keyboard.press("Control+Enter");
  const said = composer(page).getByRole("alert");
  await expect(said).toContainText("“not an address” cannot be an address");
  await said.getByRole("button", { name: "Take it out" }).click();
  await expect(composer(page).getByRole("button", { name: /^to: / })).toHaveCount(2);
  await page.getByLabel("subject").fill("The map");
  await composer(page).getByRole("textbox", { name: "Text" }).click();
  await page.keyboard.type("It is attached.");
  await page.keyboard.press("Control+Enter");
  await expect(said).toContainText("It speaks of an attachment, and has none");
  await composer(page)
    .getByLabel("Files to attach")
    .setInputFiles({ name: "map.txt", mimeType: "text/plain", buffer: Buffer.from("north is up") });
  await expect(composer(page)).toContainText("map.txt");
  await page.keyboard.press("Control+Enter");
  await expect(composer(page)).toHaveCount(0);
  await expect.poll(() => app.count("folder=Outbox & attachment")).toBe(1);
});

test("two windows on one draft: the later one is told, and nothing is overwritten", async ({ page, context, app }) => {
  await openBench(page, app);
  const draft = (await send(app, "POST", "/drafts", { subject: "Shared", kind: "new" })) as { id: number };
  const other = await context.newPage();
  for (const one of [page, other]) {
    if (one === other) await openBench(other, app);
    await one.keyboard.press(";");
    await one.keyboard.type("drafts");
    await one.keyboard.press("Enter");
    await expect(one.getByTestId("count")).toHaveText("1 message");
    await one.keyboard.press("Enter");
    await ready(one);
  }
  await page.getByLabel("subject").fill("Shared, by the first");
  await expect(page.getByTestId("saved")).toHaveText("stored");
  await other.getByLabel("subject").fill("Shared, by the second");
  await expect(composer(other).getByRole("alert")).toContainText("Another window has changed this draft");
  expect((await app.get<{ subject: string }>(`/drafts/${draft.id}`)).subject).toBe("Shared, by the first");
  await composer(other).getByRole("button", { name: "Keep this one beside it" }).click();
  await expect
    .poll(async () => (await app.get<{ subject: string }[]>("/drafts")).map(({ subject }) => subject).sort())
    .toEqual(["Shared, by the first", "Shared, by the second"]);
});

test("twelve answers to all, one draft after the other, by keys alone", async ({ page, app }) => {
  await send(app, "PATCH", "/settings", { holdSeconds: 120 });
  await openBench(page, app);
  await page.keyboard.press("2");
  const ids: number[] = [];
  for (let n = 0; n < 12; n++) {
    ids.push(Number(await focusedId(page)));
    await page.keyboard.press("i");
    await page.keyboard.press("j");
  }
  await page.keyboard.press("r");
  for (let n = 1; n <= 12; n++) {
    await expect(composer(page)).toContainText(`${n} of 12`);
    await ready(page);
    await expect(composer(page).getByRole("textbox", { name: "Text" })).toBeFocused();
    await page.keyboard.type(`Answer ${n}.`);
    await page.keyboard.press("Control+Enter");
    // A letter to a list, or without what it should have, is asked about once.
    if (await composer(page).getByRole("button", { name: "Send it as it is" }).isVisible())
      await page.keyboard.press("Control+Enter");
  }
  await expect(composer(page)).toHaveCount(0);
  await expect.poll(() => app.count("folder=Outbox")).toBe(12);
  await expect.poll(() => app.count("folder=Drafts")).toBe(0);
});

test("a letter for later leaves after everything was started anew", async ({ page, app }) => {
  await openBench(page, app);
  const draft = (await send(app, "POST", "/drafts", {
    kind: "new",
    to: [{ name: "", address: "silent.x@larch.example" }],
    subject: "Later",
  })) as { id: number; version: number };
  const before = await received(app);
  await send(app, "PATCH", `/drafts/${draft.id}`, {
    version: draft.version,
    sendAt: new Date(Date.now() + 25_000).toISOString(),
  });
  await send(app, "POST", `/drafts/${draft.id}/send`, { id: crypto.randomUUID() });
  expect(await received(app)).toBe(before);
  await app.restartAll();
  expect(await folderOf(app, draft.id)).toBe("Outbox");
  await expect.poll(() => received(app)).toBe(before + 1);
  await expect.poll(() => folderOf(app, draft.id)).toBe("Sent");
});

test("handing over asks to whom once, completes addresses, and forwards, flags and moves twenty", async ({
  page,
  app,
}) => {
  await send(app, "PATCH", "/settings", { holdSeconds: 120 });
  await openBench(page, app);
  const ids: number[] = [];
  for (let n = 0; n < 20; n++) {
    ids.push(Number(await focusedId(page)));
    await page.keyboard.press("i");
    await page.keyboard.press("j");
  }
  await page.keyboard.press("b");
  await page.keyboard.type("silent.warden@larch.example");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Enter");
  // Several letters that go by themselves are looked at first, with whom they go to.
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("20 letters");
  await expect(dialog).toContainText("larch.example");
  await page.keyboard.press("Enter");
  await expect.poll(() => app.count('folder="Handed over" & flagged & read')).toBe(20);
  for (const id of ids) expect(await folderOf(app, id)).toBe("Handed over");
  expect((await received(app)) + (await app.count("folder=Outbox"))).toBe(20);
  await page.keyboard.press("u");
  await expect.poll(() => app.count('folder="Handed over"')).toBe(0);
  for (const id of ids) expect(await folderOf(app, id)).toBe("Inbox");
  expect(await app.count("folder=Outbox")).toBe(0);
});

test("a letter gets a label while it is written, and is listed by whom it goes to", async ({ page, app }) => {
  await send(app, "PATCH", "/settings", { holdSeconds: 120 });
  await openBench(page, app);
  await page.keyboard.press("n");
  await ready(page);
  await page.getByLabel("Put a label on it").selectOption({ index: 1 });
  const off = composer(page).getByRole("button", { name: /^Take off the label / });
  const label = /label (.*)$/.exec((await off.getAttribute("aria-label"))!)![1]!;
  await expect.poll(() => app.count(`folder=Drafts & label="${label}"`)).toBe(1);
  await composer(page).getByRole("combobox", { name: "to" }).click();
  await page.keyboard.type("Silent Reed <silent.reed@larch.example>, silent.bo@larch.example,");
  await page.getByLabel("subject").fill("The key");
  await composer(page).getByRole("textbox", { name: "Text" }).click();
  await page.keyboard.type("It hangs behind the door.");
  await page.keyboard.press("Control+Enter");
  // Nobody was written to there yet: it is asked once.
  if (await composer(page).getByRole("alert").isVisible()) await page.keyboard.press("Control+Enter");
  await expect(composer(page)).toHaveCount(0);
  await expect.poll(() => app.count(`folder=Outbox & label="${label}"`)).toBe(1);
  await page.keyboard.press(";");
  await page.keyboard.type("outbox");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-focused]")).toContainText("to Silent Reed, silent.bo@larch.example");
});

test("an answer is awaited, comes by itself, and clears what waited for it", async ({ page, app }) => {
  await send(app, "PATCH", "/simulator", { answers: 1, bounces: 0, answerAfter: 0 });
  await send(app, "PATCH", "/settings", { holdSeconds: 120 });
  await openBench(page, app);
  const id = Number(await focusedId(page));
  await send(app, "POST", "/macros", {
    name: "Confirm and await",
    steps: [
      { do: "reply", template: "Confirmation", goes: "outbox" },
      { do: "await an answer", for: "+5d" },
    ],
  });
  await page.keyboard.press("'");
  await page.keyboard.type("confirm and await");
  await expect(page.getByRole("option", { name: "Confirm and await" })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await rows(app, "awaited")).map((row) => row.id)).toEqual([id]);
  await expect(page.getByRole("navigation", { name: "Places" })).toContainText(/Awaited\s*1/);
  const [letter] = await app.get<{ message: number }[]>("/outgoing");
  await send(app, "PATCH", `/outgoing/${letter!.message}`, { do: "now" });
  await expect.poll(() => app.count("awaited")).toBe(0);
  await expect(page.getByRole("navigation", { name: "Places" })).toContainText(/Awaited\s*0/);
  const { thread } = await app.get<Row>(`/messages/${id}`);
  const answers = (await rows(app, "folder=Inbox")).filter((row) => row.thread === thread && row.id !== id);
  expect(answers).toHaveLength(1);
});
