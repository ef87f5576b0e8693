import type { Locator, Page } from "@playwright/test";
import { expect, notice, test, type App } from "./app";

/** Texts that are written again and again: made, written, put away and deleted by keys, and taken back. */

interface Template {
  readonly id: number;
  readonly name: string;
  readonly folder: string;
  readonly subject: string;
  readonly body: unknown;
}
const templatesOf = (app: App) => app.get<Template[]>("/templates");
const namesOf = async (app: App) => (await templatesOf(app)).map(({ name }) => name).sort();
const named = async (app: App, name: string) => (await templatesOf(app)).find((one) => one.name === name);
const current = (page: Page) => page.getByRole("navigation", { name: "All templates" }).locator("[aria-current=true]");
const name = (page: Page) => page.getByLabel("Name", { exact: true });

test("a new template is the one that is shown; subject and text are stored, however soon it is left", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/templates`);
  await page.getByRole("button", { name: "New template" }).click();
  await expect(name(page)).toHaveValue(/^Template \d+$/);
  const made = await name(page).inputValue();
  await page.getByLabel("Subject", { exact: true }).click();
  await page.keyboard.type("The gate");
  await page.getByRole("textbox", { name: "Text of the template" }).click();
  await page.keyboard.type("It is shut at nine.");
  await page.goto(`${app.address}/rules`);
  await expect.poll(() => named(app, made)).toMatchObject({ subject: "The gate" });
  expect(JSON.stringify((await named(app, made))?.body)).toContain("It is shut at nine.");
});

test("by keys a template is made, named, written, deleted, and each is taken back with all that was in it", async ({
  page,
  app,
}) => {
  const before = await namesOf(app);
  await page.goto(`${app.address}/templates`);
  await expect(name(page)).toBeVisible();
  await page.keyboard.press("n");
  await expect(name(page)).toHaveValue(/^Template \d+$/);
  await page.keyboard.press("Space");
  await page.keyboard.press("Control+a");
  await page.keyboard.type("Gate");
  await page.keyboard.press("Enter");
  await expect(current(page)).toContainText("Gate");
  await page.keyboard.press("Space");
  await page.keyboard.type("way");
  // Left as it was.
  await page.keyboard.press("Escape");
  await expect(name(page)).toHaveValue("Gate");
  await page.getByRole("textbox", { name: "Text of the template" }).click();
  await page.keyboard.type("It is shut at nine.");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Delete");
  await expect.poll(() => namesOf(app)).toEqual(before);
  await expect(notice(page)).toContainText("Deleted “Gate”. U takes it back.");
  await page.keyboard.press("u");
  await expect.poll(async () => JSON.stringify((await named(app, "Gate"))?.body)).toContain("It is shut at nine.");
  await expect(page.getByRole("navigation", { name: "All templates" })).toContainText("Gate");
  await page.keyboard.press("u");
  await expect.poll(async () => (await namesOf(app)).find((one) => /^Template \d+$/.test(one))).toBeDefined();
  await page.keyboard.press("u");
  await expect.poll(() => namesOf(app)).toEqual(before);
  // And again, in the same order.
  for (let i = 0; i < 2; i++) await page.keyboard.press("Shift+u");
  await expect.poll(async () => JSON.stringify((await named(app, "Gate"))?.body)).toContain("It is shut at nine.");
  await page.keyboard.press("Home");
  await expect(current(page)).toContainText(before.length > 0 ? /./ : "Gate");
  await page.keyboard.press("j");
  await expect(page.getByRole("navigation", { name: "All templates" }).getByRole("button").nth(1)).toHaveAttribute(
    "aria-current",
    "true",
  );
});

test("what another window writes into a template is shown here too, and what is typed next is a part of it", async ({
  page,
  app,
}) => {
  const text = (where: Page) => where.getByRole("textbox", { name: "Text of the template" });
  const write = async (where: Page, words: string) => {
    await text(where).click();
    await where.keyboard.press("Control+End");
    await where.keyboard.type(words);
  };
  await page.goto(`${app.address}/templates`);
  await page.getByRole("button", { name: "New template" }).click();
  await expect(name(page)).toHaveValue(/^Template \d+$/);
  const made = await name(page).inputValue();
  await write(page, "Open at nine.");
  const other = await page.context().newPage();
  await other.goto(`${app.address}/templates`);
  await other.getByRole("navigation", { name: "All templates" }).getByRole("button", { name: made }).click();
  await expect(text(other)).toHaveText("Open at nine.");
  await write(page, " Bring lamps.");
  await expect(text(other)).toHaveText("Open at nine. Bring lamps.");
  await other.getByLabel("Subject", { exact: true }).click();
  await other.keyboard.type("The gate");
  await write(other, " And ropes.");
  await expect(text(page)).toHaveText("Open at nine. Bring lamps. And ropes.");
  await expect(page.getByLabel("Subject", { exact: true })).toHaveValue("The gate");
  // The caret is where it was, and what is typed there is not lost to what comes meanwhile.
  await page.keyboard.press("Control+End");
  await page.keyboard.type(" And wax for the long way up.", { delay: 60 });
  const whole = "Open at nine. Bring lamps. And ropes. And wax for the long way up.";
  await expect(text(page)).toHaveText(whole);
  await expect(text(other)).toHaveText(whole);
  await expect.poll(async () => JSON.stringify((await named(app, made))?.body)).toContain(whole);
});

test("a name that is being typed stays, when another window gives another one, and is stored as it is left", async ({
  page,
  app,
}) => {
  const patch = (path: string, body: object) =>
    app.fetch(path, { method: "PATCH", headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
  const nameOf = async (path: string, id: number) =>
    (await app.get<{ id: number; name?: string; title?: string }[]>(path)).find((one) => one.id === id);
  /** Types behind what stands in a field, while the same is called something else elsewhere. */
  const typed = async (field: Locator, meanwhile: () => Promise<unknown>) => {
    await field.click();
    await page.keyboard.press("End");
    await page.keyboard.type(" in sp", { delay: 20 });
    await meanwhile();
    await page.keyboard.type("ring", { delay: 20 });
    await page.keyboard.press("Enter");
  };
  await page.goto(`${app.address}/workshop`);
  const list = page.getByLabel("Macros", { exact: true });
  await list.getByRole("button", { name: /^Archive/ }).click();
  const macro = (await app.get<{ id: number; name: string }[]>("/macros")).find(({ name }) => name === "Archive")!;
  const head = page.getByLabel("Name of the macro", { exact: true });
  await typed(head, async () => {
    await patch(`/macros/${macro.id}`, { name: "Stow" });
    await expect(list).toContainText("Stow");
  });
  await expect.poll(async () => (await nameOf("/macros", macro.id))?.name).toBe("Archive in spring");
  // Where nothing is being typed, what came is shown.
  await patch(`/macros/${macro.id}`, { name: "Stow" });
  await expect(head).toHaveValue("Stow");

  await page.goto(`${app.address}/templates`);
  await page.getByRole("button", { name: "New template" }).click();
  await expect(name(page)).toHaveValue(/^Template \d+$/);
  const made = (await named(app, await name(page).inputValue()))!;
  await typed(name(page), async () => {
    await patch(`/templates/${made.id}`, { name: "Huts" });
    await expect(page.getByRole("navigation", { name: "All templates" })).toContainText("Huts");
  });
  await expect.poll(async () => (await nameOf("/templates", made.id))?.name).toBe(`${made.name} in spring`);

  const body = JSON.stringify({ title: "Sweep the hut" });
  await app.fetch("/tasks", { method: "POST", headers: { "content-type": "application/json" }, body });
  const [task] = await app.get<{ id: number; title: string }[]>("/tasks");
  await page.goto(`${app.address}/tasks`);
  const title = page.getByRole("region", { name: "The task" }).getByLabel("What is to be done");
  await expect(title).toHaveValue("Sweep the hut");
  await typed(title, async () => {
    await patch(`/tasks/${task!.id}`, { title: "Sweep the chimney" });
    await expect(page.getByRole("main")).toContainText("Sweep the chimney");
  });
  await expect.poll(async () => (await nameOf("/tasks", task!.id))?.title).toBe("Sweep the hut in spring");
});
