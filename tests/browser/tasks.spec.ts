import type { Page } from "@playwright/test";
import { expect, notice, test, type App } from "./app";

/** What is to be done: written in a line, decided by keys, pulled over the board, changed in every part, taken back. */

interface Task {
  readonly id: number;
  readonly title: string;
  readonly due: string | null;
  readonly estimate: number | null;
  readonly pressing: boolean;
  readonly waiting: boolean;
  readonly repeat: string | null;
  readonly done: boolean;
}
const tasksOf = (app: App) => app.get<Task[]>("/tasks");
const titled = async (app: App, title: string) => (await tasksOf(app)).find((task) => task.title === title);
const group = (page: Page, name: string) => page.getByRole("region", { name, exact: true });
const now = (page: Page) => page.locator("[data-task][aria-current=true]");
/** A day as a person writes it: so many on from today. */
const daysOn = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

async function openTasks(page: Page, app: App): Promise<void> {
  await page.goto(`${app.address}/tasks`);
  await expect(page.locator("main header")).toContainText(/tasks? to do/);
}

async function write(page: Page, ...lines: readonly string[]): Promise<void> {
  await page.keyboard.press("n");
  for (const line of lines) {
    await page.keyboard.insertText(line);
    await page.keyboard.press("Enter");
    await expect(page.getByLabel("What is to be done").first()).toHaveValue("");
  }
  await page.keyboard.press("Escape");
}

test("tasks are written in lines, decided by keys one after the other, and all of it is taken back", async ({
  page,
  app,
}) => {
  await openTasks(page, app);
  await expect(page.getByText("Nothing is to be done yet.")).toBeVisible();
  await page.keyboard.press("n");
  await page.keyboard.insertText(`ring the helicopter people ${daysOn(40)} 10 30m !`);
  await expect(page.getByRole("form", { name: "A new task" }).getByRole("status")).toContainText(
    /ring the helicopter people · .*10:00 · 30 min · pressing/,
  );
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await expect(group(page, "Later")).toContainText("ring the helicopter people");
  await write(
    page,
    `pay the rope makers ${daysOn(-3)}`,
    "look for the lost glove",
    "count the blankets every 2 weeks !",
  );
  await expect(group(page, "Overdue")).toContainText("pay the rope makers");
  await expect(group(page, "No date")).toContainText("look for the lost glove");
  await expect
    .poll(async () => titled(app, "count the blankets"))
    .toMatchObject({ repeat: "2 week", estimate: null, pressing: true });
  expect(await titled(app, "ring the helicopter people")).toMatchObject({ estimate: 30, pressing: true });

  // The one on top is the focused one; done, the next is at hand. On a Sunday tomorrow is next week, where what presses
  // stands on top.
  await page.keyboard.press("Home");
  await expect(now(page)).toContainText("pay the rope makers");
  await page.keyboard.press("i");
  await expect(group(page, "Done")).toContainText("pay the rope makers");
  await expect(now(page)).toContainText("count the blankets");
  const first = (await titled(app, "count the blankets"))!.due!;
  await page.keyboard.press("i");
  await expect(notice(page)).toContainText("Done: count the blankets, and due again");
  const fortnight = 14 * 86_400_000;
  await expect
    .poll(async () =>
      Math.round((Date.parse((await titled(app, "count the blankets"))!.due!) - Date.parse(first)) / 3_600_000),
    )
    .toBeGreaterThanOrEqual(fortnight / 3_600_000 - 1);
  // Digits put a task where it is due then; the glove waits for somebody.
  await page.keyboard.press("End");
  await page.keyboard.press("k");
  await expect(now(page)).toContainText("look for the lost glove");
  await page.keyboard.press("5");
  await expect(group(page, "Waiting")).toContainText("look for the lost glove");
  await expect.poll(async () => (await titled(app, "look for the lost glove"))?.waiting).toBe(true);
  // All of it is taken back, the last first.
  await page.keyboard.press("u");
  await expect(group(page, "No date")).toContainText("look for the lost glove");
  await page.keyboard.press("u");
  await expect.poll(async () => (await titled(app, "count the blankets"))?.due).toBe(first);
  await page.keyboard.press("u");
  await expect(group(page, "Overdue")).toContainText("pay the rope makers");
  await page.keyboard.press("Shift+u");
  await expect(group(page, "Done")).toContainText("pay the rope makers");
  await page.keyboard.press("u");
  await expect(group(page, "Overdue")).toContainText("pay the rope makers");
  await page.keyboard.press("Home");
  await page.keyboard.press("Delete");
  await expect.poll(async () => titled(app, "pay the rope makers")).toBeUndefined();
  await page.keyboard.press("u");
  await expect(group(page, "Overdue")).toContainText("pay the rope makers");
});

test("every part of a task is changed where it stands; what cannot be says why and stays", async ({ page, app }) => {
  await openTasks(page, app);
  await write(page, "air the bedding");
  await page.keyboard.press("Space");
  const details = page.getByRole("region", { name: "The task", exact: true });
  await page.keyboard.press("Control+a");
  await page.keyboard.insertText("air all the bedding");
  await page.keyboard.press("Enter");
  await expect.poll(async () => titled(app, "air all the bedding")).toMatchObject({ due: null, repeat: null });
  await page.keyboard.press("Tab");
  await page.keyboard.insertText("sometime");
  await expect(details).toContainText("is no time: try tomorrow 9");
  await page.keyboard.press("Control+a");
  await page.keyboard.insertText(`${daysOn(30)} 8:15`);
  await page.keyboard.press("Tab");
  await page.keyboard.insertText("90");
  await page.keyboard.press("Tab");
  await details.getByLabel("How often it comes again").selectOption("month");
  await details.getByLabel("it presses").check();
  await details.getByLabel("waiting for somebody").check();
  await expect
    .poll(async () => titled(app, "air all the bedding"))
    .toMatchObject({ estimate: 90, repeat: "1 month", pressing: true, waiting: true, done: false });
  await details.getByLabel("So many at a time").selectOption("3");
  await expect(now(page)).toContainText("every 3 months");
  // What comes again needs its date.
  await details.getByLabel("When it is due").click();
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Delete");
  await expect(details).toContainText("What comes again needs a date.");
  await page.keyboard.press("Escape");
  await expect(details.getByLabel("When it is due")).not.toHaveValue("");
  expect((await titled(app, "air all the bedding"))!.due).not.toBeNull();
  // What could be stored is not, either, where Esc is pressed.
  await details.getByLabel("What is to be done").click();
  await page.keyboard.insertText(" twice");
  await page.keyboard.press("Escape");
  await details.getByLabel("it presses").uncheck();
  await expect.poll(async () => titled(app, "air all the bedding")).toMatchObject({ pressing: false });
  // A page that is loaded anew has left no field, and loses nothing of what is in it.
  await details.getByLabel("What is to be done").click();
  await page.keyboard.press("End");
  await page.keyboard.insertText(", and the rugs");
  await page.reload();
  await expect.poll(async () => titled(app, "air all the bedding, and the rugs")).toMatchObject({ estimate: 90 });
});

test("on the board a task is pulled into another column, which is kept shown over a reload", async ({ page, app }) => {
  await openTasks(page, app);
  await write(page, `oil the door ${daysOn(60)}`, "sweep the chimney");
  await page.getByRole("button", { name: "board" }).click();
  const card = page.locator("[data-task]", { hasText: "sweep the chimney" });
  const target = group(page, "Later");
  const [from, to] = [(await card.boundingBox())!, (await target.boundingBox())!];
  await page.mouse.move(from.x + 20, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(from.x + 60, from.y + 30, { steps: 4 });
  await page.mouse.move(to.x + to.width / 2, to.y + 120, { steps: 8 });
  await page.mouse.up();
  await expect(target).toContainText("sweep the chimney");
  await expect.poll(async () => (await titled(app, "sweep the chimney"))?.due).not.toBeNull();
  await page.reload();
  await expect(group(page, "Later")).toContainText("sweep the chimney");
  await expect(page.getByRole("button", { name: "board" })).toHaveAttribute("aria-pressed", "true");
  // Nothing is put off into the past: a task that is dropped on what is overdue stays.
  await page.keyboard.press("Home");
  await page.keyboard.press("4");
  await expect(group(page, "No date")).not.toBeEmpty();
});

test("a task of a message shows it, opens it, and keeps what it was when it is gone", async ({ page, app }) => {
  const [message] = (
    await app.get<{ rows: { id: number; subject: string; from: { name: string } }[] }>(
      "/messages?narrow=folder%3DInbox&limit=1",
    )
  ).rows;
  const made = await app.fetch(`/tasks`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ title: "answer them", message: message!.id }),
  });
  expect(made.status).toBe(201);
  await page.goto(`${app.address}/tasks`);
  await expect(page.getByRole("region", { name: "The task’s message" })).toContainText(message!.subject);
  await expect(now(page)).toContainText(`: ${message!.subject}`);
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(`${app.address}/`);
  await expect(page.locator(`[data-id="${message!.id}"]`)).toBeVisible();
});
