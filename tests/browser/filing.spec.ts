import type { Page } from "@playwright/test";
import { expect, focusedId, notice, openBench, test, type App } from "./app";

/** Where mail belongs: guessed from what was filed before, filed by one key, by the second guess, and many at once. */

const folderOf = async (app: App, id: string | number) => (await app.get<{ folder: string }>(`/messages/${id}`)).folder;
const guessOn = (page: Page) => page.locator("[data-focused]").getByTitle("Where it probably belongs");
const unsureOn = (page: Page) => page.locator("[data-focused]").getByTitle("Not sure where it belongs");
const belongs = (page: Page) => page.getByRole("region", { name: "Where this belongs" });
const pad = (page: Page, name: string) => page.locator(`[data-macro="${name}"]`);

/** Guesses are there once what the demo's folders teach was learned; until all of it is, they get better. */
async function openWithGuesses(page: Page, app: App): Promise<void> {
  const state = async () => {
    const { learned, due } = await app.get<{ learned: number; due: number }>("/filing");
    return learned > 0 && due === 0;
  };
  await expect.poll(state, { timeout: 60_000 }).toBe(true);
  await openBench(page, app);
  await expect(page.getByTitle("Where it probably belongs").first()).toBeVisible({ timeout: 60_000 });
}

/** With so much asked for, some of the newest messages are doubtful, in whatever order was learned. */
const ASKED = 97;
const askMuch = (app: App) =>
  app.fetch(`/settings`, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ leastSure: ASKED }),
  });

/** Goes down, message by message, to the first that is as wanted. */
async function goTo(page: Page, wanted: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 60; i++) {
    if (await wanted()) return;
    await page.keyboard.press("j");
  }
  throw new Error("no such message among the first sixty");
}

test("one key files where the row says, with the reasons in the reader; the second guess has its own key", async ({
  page,
  app,
}) => {
  await openWithGuesses(page, app);
  await goTo(page, () => guessOn(page).isVisible());
  const id = (await focusedId(page))!;
  const said = (await guessOn(page).innerText()).split(/\s+/);
  const [name, percent] = [said.slice(0, -1).join(" "), said.at(-1)!];
  // Row, pad and reader say the same.
  await expect(pad(page, "File as guessed")).toContainText(`→ ${name} ${percent} %`);
  await expect(belongs(page).getByRole("listitem").first()).toContainText(name);
  await expect(belongs(page).getByRole("listitem").first()).toContainText(/there|thread/);
  await page.keyboard.press("s");
  await expect.poll(() => folderOf(app, id)).toMatch(new RegExp(`(^|/)${name}$`));
  expect(await focusedId(page)).not.toBe(id);
  await page.keyboard.press("u");
  await expect.poll(() => folderOf(app, id)).toBe("Inbox");
  // Back on it, the second guess.
  await expect.poll(() => focusedId(page)).toBe(id);
  const second = belongs(page).getByRole("listitem").nth(1).getByRole("button");
  await expect(second).toBeVisible();
  const path = (await second.getAttribute("title"))!.replace("File it to ", "");
  expect(path).not.toBe(name);
  await page.keyboard.press("Shift+S");
  await expect.poll(() => folderOf(app, id)).toBe(path);
});

test("an answer is sent and its copy filed where what it answers belongs", async ({ page, app }) => {
  await app.fetch(`/settings`, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ holdSeconds: 0 }),
  });
  await openWithGuesses(page, app);
  await goTo(page, () => guessOn(page).isVisible());
  await page.keyboard.press("r");
  const filed = page.getByRole("button", { name: /^Send, file to/ });
  await expect(filed).toBeVisible();
  const path = /file to (.+?) \d+ %/.exec(await filed.innerText())![1]!;
  const copies = () => app.count(`mine folder="${path}"`);
  const before = await copies();
  await expect(page.getByRole("textbox", { name: "Text" })).toBeFocused();
  await page.keyboard.type("We have noted it.");
  await page.keyboard.press("Control+Alt+Enter");
  await expect(notice(page)).toContainText(`its copy to ${path}`);
  await expect.poll(copies).toBe(before + 1);
});

test("what the list stops at has its guesses, however much was passed over", async ({ page, app }) => {
  await openWithGuesses(page, app);
  for (let i = 0; i < 14; i++) await page.keyboard.press("PageDown");
  await expect(page.locator("[data-focused]").getByTitle(/where it (probably )?belongs/i)).toBeVisible();
  await page.keyboard.press("End");
  await expect(page.locator("[data-focused]").getByTitle(/where it (probably )?belongs/i)).toBeVisible();
});

test("what is doubtful is asked for, with the likely folders first", async ({ page, app }) => {
  await askMuch(app);
  await openWithGuesses(page, app);
  await goTo(page, () => unsureOn(page).isVisible());
  const id = (await focusedId(page))!;
  await expect(pad(page, "File as guessed")).toContainText("asks where");
  await expect(belongs(page)).toContainText("not sure enough");
  const first = belongs(page).getByRole("listitem").first().getByRole("button");
  const likely = (await first.getAttribute("title"))!.replace("File it to ", "");
  await page.keyboard.press("s");
  const asked = page.getByRole("listbox", { name: /Not sure: file to which folder/ });
  await expect(asked.getByRole("option").first()).toContainText(likely);
  await expect(asked.getByRole("option").first()).toContainText("%");
  await page.keyboard.press("1");
  await expect.poll(() => folderOf(app, id)).toBe(likely);
  await page.keyboard.press("u");
  await expect.poll(() => folderOf(app, id)).toBe("Inbox");
});

test("many are filed as guessed after a look at how many go where; one key takes all of it back", async ({
  page,
  app,
}) => {
  await askMuch(app);
  await openWithGuesses(page, app);
  const inbox = await app.count("folder=Inbox");
  for (let i = 0; i < 24; i++) await page.keyboard.press("Shift+J");
  await expect(page.getByTestId("count")).toContainText("25 of");
  await page.keyboard.press("s");
  const dialog = page.getByRole("dialog", { name: "File as guessed: 25 messages" });
  const file = dialog.getByRole("button", { name: /^File \d+$/ });
  await expect(file).toBeFocused();
  const filed = Number((await file.innerText()).replace("File ", ""));
  const groups = await dialog
    .getByRole("row")
    .evaluateAll((rows) => rows.map((row) => [...row.children].map((cell) => cell.textContent ?? "")));
  expect(groups.length).toBeGreaterThan(1);
  expect(groups.reduce((sum, [, count]) => sum + Number(count), 0)).toBe(filed);
  expect(filed).toBeLessThan(25);
  await expect(dialog).toContainText(`Left out, ${25 - filed}: not sure enough`);
  const before = new Map(
    await Promise.all(groups.map(async ([path]) => [path!, await app.count(`folder="${path}"`)] as const)),
  );
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toContainText(`${25 - filed} of`);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - filed);
  for (const [path, count] of groups)
    expect(await app.count(`folder="${path}"`)).toBe(before.get(path!)! + Number(count));
  await page.keyboard.press("u");
  await expect(notice(page)).toContainText("Took back: File as guessed");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
});

test("what is filed twice by hand is guessed the third time, and forgotten when that is wanted", async ({
  page,
  app,
}) => {
  const letter = (n: number) =>
    `From desk@\r\nFrom: Slope Radio <radio@slope.example>\r\nTo: bookings@larchhuts.example\r\nSubject: Programme ${n}\r\n` +
    `Date: Fri, 27 Nov 2026 0${n}:00:00 +0000\r\nMessage-ID: <radio${n}@slope.example>\r\n\r\nOn air.\r\n\r\n`;
  const mbox = [1, 2, 3].map(letter).join("").replaceAll("From desk@", "From desk@x.example Fri Nov 27 00:00:00 2026");
  const answer = await app.fetch(`/import?folder=Inbox`, {
    method: "POST",
    headers: { "content-type": "application/mbox" },
    body: mbox,
  });
  expect(answer.status).toBe(202);
  await expect.poll(() => app.count("from~slope folder=Inbox")).toBe(3);
  await openWithGuesses(page, app);
  await page.keyboard.press("/");
  await page.keyboard.type("from~slope");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toContainText("3 messages");
  for (let i = 0; i < 2; i++) {
    await page.keyboard.press("a");
    await page.keyboard.type("lost prop");
    await page.keyboard.press("Enter");
    await expect.poll(() => app.count('from~slope folder="Lost property"')).toBe(i + 1);
  }
  await expect(guessOn(page)).toContainText("Lost property");
  await expect(belongs(page)).toContainText("2 messages from this sender are there");
  await page.keyboard.press("s");
  await expect.poll(() => app.count('from~slope folder="Lost property"')).toBe(3);
  // What is held can be seen, and forgotten.
  await page.goto(`${app.address}/places`);
  const section = page.getByRole("region", { name: "Where mail belongs" });
  await section.getByText("What is known of each folder").click();
  await expect(section.getByRole("row", { name: /^Lost property/ })).toBeVisible();
  await section.getByRole("button", { name: "Forget it…" }).click();
  await section.getByRole("button", { name: "Begin with nothing" }).click();
  await expect(section.getByTestId("learned")).toContainText("Learned from 0 messages");
});
