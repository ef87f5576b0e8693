import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import type { App } from "./app";
import { expect, focusedId, openBench, test } from "./app";

/** Seconds of the keystroke-level model: a stroke, and making up one's mind. */
const K = 0.2;
const M = 1.35;

interface Told {
  readonly strokes: number;
  readonly choices: number;
  readonly seconds: number;
}

/** What the page tells of each flow. */
const told = new Map<string, Told>(
  readFileSync(new URL("../../docs/economy.md", import.meta.url), "utf8")
    .split("\n")
    .map((line) => line.split("|").map((cell) => cell.trim()))
    .filter((cells) => cells.length === 7 && /^\d/.test(cells[3]!))
    .map(([, flow, , strokes, choices, seconds]) => [
      flow!,
      { strokes: Number(strokes), choices: Number(choices), seconds: Number(seconds) },
    ]),
);
const counted = new Set<string>();

/** Presses keys, and counts them as the browser gets them: modifiers by themselves are none. */
class Hands {
  strokes = 0;
  constructor(private readonly page: Page) {}

  async press(...keys: string[]): Promise<void> {
    for (const key of keys) {
      this.strokes++;
      await this.page.keyboard.press(key);
    }
  }

  /** Words that have to be written whatever the program. */
  words = (text: string): Promise<void> => this.page.keyboard.type(text);
}

const folderOf = async (app: App, id: number) => (await app.get<{ folder: string }>(`/messages/${id}`)).folder;
const settle = async (app: App, id: number, folder: string) => expect.poll(() => folderOf(app, id)).toBe(folder);

/** Does a flow, and holds the page to what it took. @param choices times one has to make up one's mind */
async function flow(page: Page, name: string, choices: number, act: (hands: Hands) => Promise<void>): Promise<void> {
  const hands = new Hands(page);
  await act(hands);
  const line = told.get(name);
  expect(line, `docs/economy.md has no line “${name}”`).toBeDefined();
  expect({ name, strokes: hands.strokes, choices }).toEqual({
    name,
    strokes: line!.strokes,
    choices: line!.choices,
  });
  expect(line!.seconds).toBeCloseTo(K * hands.strokes + M * choices, 2);
  counted.add(name);
}

const NARROWED = "folder=Inbox & !deferred";

test("the commonest flows take as many strokes as their page tells", async ({ page, app }) => {
  await app.fetch(`/settings`, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ holdSeconds: 120 }),
  });
  await openBench(page, app);
  const at = async () => Number(await focusedId(page));
  const composer = page.getByRole("region", { name: "Composer" });

  let id = await at();
  await flow(page, "archive, and be at the next", 1, (hands) => hands.press("f"));
  await settle(app, id, "Archive");
  expect(await at()).not.toBe(id);

  // A sender of whom the office has filed mail before: the folder is known.
  await page.keyboard.press("/");
  await page.keyboard.type("from~warden");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "from~warden: drop this condition" })).toBeVisible();
  await expect(page.locator("[data-focused]").getByTitle("Where it probably belongs")).toContainText("Wardens", {
    timeout: 60_000,
  });
  id = await at();
  await flow(page, "file as guessed", 1, (hands) => hands.press("s"));
  await settle(app, id, "Wardens");
  await page.keyboard.press(",");

  id = await at();
  await flow(page, "file elsewhere", 2, async (hands) => {
    await hands.press("a");
    await expect(page.getByRole("dialog")).toBeVisible();
    await hands.press("p", "r", "Enter");
  });
  await settle(app, id, "Press");

  id = await at();
  await flow(page, "reply and archive", 2, async (hands) => {
    await hands.press("r");
    await hands.words("Gladly.");
    await expect(composer).toHaveAttribute("data-ready", "true");
    await hands.press("Control+Shift+Enter");
  });
  await expect(composer).toHaveCount(0);
  await settle(app, id, "Archive");

  id = await at();
  await flow(page, "hand over, flag, move", 2, async (hands) => {
    await hands.press("b");
    await expect(page.getByRole("dialog")).toBeVisible();
    await hands.words("silent.warden@larch.example");
    await hands.press("Control+Enter");
  });
  await settle(app, id, "Handed over");

  id = await at();
  const { thread } = await app.get<{ thread: number }>(`/messages/${id}`);
  await flow(page, "thread away", 1, (hands) => hands.press("Shift+F"));
  await settle(app, id, "Archive");
  expect(thread).toBeGreaterThan(0);

  id = await at();
  const tasks = (await app.get<unknown[]>("/tasks")).length;
  await flow(page, "message to a task with a due date", 1, (hands) => hands.press("t"));
  await expect.poll(async () => (await app.get<unknown[]>("/tasks")).length).toBe(tasks + 1);
  expect((await app.get<{ due: string | null }[]>("/tasks")).every(({ due }) => due !== null)).toBe(true);

  const before = await app.count(NARROWED);
  for (let n = 0; n < 4; n++) await page.keyboard.press("j");
  await flow(page, "from here to the first, archive", 1, (hands) => hands.press("Shift+Home", "f"));
  await expect.poll(() => app.count(NARROWED)).toBeLessThanOrEqual(before - 4);

  const unread = await app.count(`${NARROWED} & unread`);
  const read = await app.count(`${NARROWED} & read`);
  expect(unread).toBeGreaterThan(10);
  await flow(page, "trash all unread of a batch", 1, (hands) => hands.press("Shift+I", "d"));
  await expect.poll(() => app.count(`${NARROWED} & unread`)).toBe(0);
  expect(await app.count(`${NARROWED} & read`)).toBe(read);

  await page.keyboard.press(";");
  await page.keyboard.type("archive");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toBeVisible();
  await flow(page, "pass of fifty messages", 50, async (hands) => {
    await hands.press("p");
    await expect(page.getByTestId("pass-counts")).toContainText("0 done");
    for (let n = 0; n < 50; n++) await hands.press("dvq".charAt(n % 3));
  });
  await expect(page.getByTestId("pass-counts")).toContainText("16 set aside");
  await expect(page.getByTestId("pass-counts")).toContainText("34 done");

  expect([...counted].sort()).toEqual([...told.keys()].sort());
});
