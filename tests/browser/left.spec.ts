import type { Page } from "@playwright/test";
import { expect, notice, openBench, test, type App } from "./app";

/** A window that is closed or loaded anew while somebody writes: what stands in the field is stored, wherever that is. */

interface Named {
  readonly id: number;
  readonly name: string;
}
const namesOf = async (app: App, path: string) => (await app.get<Named[]>(path)).map(({ name }) => name);
const macrosOf = async (app: App) => (await app.get<{ macros: Named[] }>("/home")).macros.map(({ name }) => name);

/** Writes behind what is in a field, and loads the page anew with the caret still in it. */
async function writeAndLeave(page: Page, label: string, text: string): Promise<string> {
  const field = page.getByLabel(label, { exact: true });
  await field.click();
  await page.keyboard.press("End");
  await page.keyboard.insertText(text);
  const whole = await field.inputValue();
  await page.reload();
  return whole;
}

test("names of macros, decks and templates", async ({ page, app }) => {
  await page.goto(`${app.address}/workshop`);
  const macro = await writeAndLeave(page, "Name of the macro", " anew");
  await expect.poll(() => macrosOf(app)).toContain(macro);
  expect(macro).toMatch(/. anew$/);
  const deck = await writeAndLeave(page, "Name of the deck", " of mine");
  await expect.poll(() => namesOf(app, "/decks")).toContain(deck);
  await page.goto(`${app.address}/templates`);
  const template = await writeAndLeave(page, "Name", " (old)");
  await expect.poll(() => namesOf(app, "/templates")).toContain(template);
});

test("a batch, also where the window is closed; what cannot stand is left out", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("/");
  await page.keyboard.type("unread");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Control+s");
  await page.keyboard.type("Not read");
  await page.keyboard.press("Enter");
  await expect.poll(() => namesOf(app, "/batches")).toContain("Not read");
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await page.keyboard.press("Control+s");
  const dialog = page.getByRole("dialog", { name: "Batch Not read" });
  const narrow = await dialog.getByLabel("Narrowing").inputValue();
  await dialog.getByLabel("Narrowing").click();
  await page.keyboard.press("End");
  await page.keyboard.insertText(" age>");
  await page.reload();
  await openBench(page, app);
  await page.keyboard.press("Control+s");
  await expect(dialog.getByLabel("Narrowing")).toHaveValue(narrow);
  await dialog.getByLabel("Name").click();
  await page.keyboard.press("End");
  await page.keyboard.insertText(" yet");
  await page.close({ runBeforeUnload: true });
  await expect.poll(() => namesOf(app, "/batches")).toContain("Not read yet");
});

test("which mail a rule is for", async ({ page, app }) => {
  await page.goto(`${app.address}/rules`);
  await page.getByLabel("Which mail", { exact: true }).fill("subject~ferry");
  await page.getByLabel("What is done", { exact: true }).selectOption({ label: "Archive" });
  await page.getByRole("button", { name: "Make the rule" }).click();
  await expect(notice(page)).toContainText("A rule: Archive.");
  await expect(page.getByLabel("Which mail", { exact: true })).toHaveValue("");
  const narrow = await writeAndLeave(page, "Rule 1: which mail", " unread");
  expect(narrow).toBe("subject~ferry unread");
  const rules = async () => (await app.get<{ narrow: string }[]>("/rules")).map((rule) => rule.narrow);
  await expect.poll(rules).toEqual([narrow]);
});
