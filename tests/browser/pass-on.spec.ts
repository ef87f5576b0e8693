import type { Page } from "@playwright/test";
import { expect, focusedId, notice, openBench, test } from "./app";

interface Read {
  readonly subject: string;
  readonly from: { readonly name: string; readonly address: string };
  readonly text: string | null;
  readonly thread: number;
  readonly threadRows: readonly { readonly id: number }[];
}

const pasted = (page: Page) => page.evaluate(() => navigator.clipboard.readText());

test("a message, what is ticked and a thread are copied as text that leads back here", async ({
  page,
  context,
  app,
}) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await openBench(page, app);
  const id = Number(await focusedId(page));
  const read = await app.get<Read>(`/messages/${id}`);
  await page.keyboard.press("Shift+O");
  await expect(notice(page)).toContainText("The message is copied as text");
  const text = await pasted(page);
  const link = `${app.address}/message/${id}`;
  expect(text.split("\n")[0]).toBe(read.subject.replace(/\s+/g, " ").trim());
  expect(text).toContain(`From: ${read.from.name} <${read.from.address}>`.replace(/\s+/g, " "));
  expect(text.split("\n")).toContain(link);
  const words = (read.text ?? "").split(/\s+/).filter(Boolean);
  if (words.length > 0) expect(text).toContain(words[0]!);

  // The address is the message's own: it is read there, and copied from there.
  const own = await context.newPage();
  await own.goto(link);
  await expect(own.getByRole("heading", { level: 1 })).toContainText(read.subject.trim().slice(0, 20));
  await own.keyboard.press("Shift+O");
  await expect(notice(own)).toContainText("copied as text");
  expect(await pasted(own)).toBe(text);
  await own.close();

  // Ticked ones are a line each.
  const ticked: number[] = [];
  for (let n = 0; n < 3; n++) {
    ticked.push(Number(await focusedId(page)));
    await page.keyboard.press("i");
    await page.keyboard.press("j");
  }
  await page.keyboard.press("Shift+O");
  await expect(notice(page)).toContainText("3 messages, a line each, copied as text");
  const lines = (await pasted(page)).trim().split("\n");
  expect(lines.map((line) => Number(/\/message\/(\d+)$/.exec(line)?.[1])).sort()).toEqual([...ticked].sort());
  await page.keyboard.press("Escape");

  // As a step of a macro: the message is taken along, and put away by the same key.
  const made = await page.request.post(`${app.address}/api/v1/macros`, {
    data: { name: "Take along", colour: "slate", steps: [{ do: "copy as text" }, { do: "archive" }], settings: {} },
  });
  expect(made.status()).toBe(201);
  const taken = Number(await focusedId(page));
  await page.keyboard.press("'");
  await page.keyboard.type("take along");
  // It was made elsewhere: its name comes with the news.
  await expect(page.getByRole("option", { name: "Take along" })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.locator(`[data-id="${taken}"]`)).toContainText("→ Archive");
  await expect.poll(() => pasted(page)).toContain(`${app.address}/message/${taken}\n`);

  // A thread is all of its messages, wherever they are.
  const { rows } = await app.get<{ rows: readonly { readonly id: number; readonly thread: number }[] }>(
    "/messages?narrow=folder%3DBookings&order=newest&limit=300",
  );
  const long = rows.find((row) => rows.filter(({ thread }) => thread === row.thread).length > 1)!;
  const thread = (await app.get<Read>(`/messages/${long.id}`)).threadRows;
  const window = await context.newPage();
  await window.goto(`${app.address}/message/${long.id}`);
  await expect(window.getByRole("heading", { level: 1 })).toBeVisible();
  await window.keyboard.press("Shift+P");
  await expect(notice(window)).toContainText(`The thread of ${thread.length} messages is copied`);
  const whole = await pasted(window);
  for (const row of thread) expect(whole).toContain(`${app.address}/message/${row.id}\n`);
});
