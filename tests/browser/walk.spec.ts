import type { Page } from "@playwright/test";
import { expect, openBench, test } from "./app";
import { axe } from "./axe";

/** Every screen, by what `;` calls it, and what is on it once it is there. */
const SCREENS = [
  ["tasks", "Tasks"],
  ["agenda", "Agenda"],
  ["ledger", "Ledger"],
  ["workshop", "Workshop"],
  ["places", "Places"],
  ["import", "Import"],
  ["senders", "Senders and lists"],
] as const;

/** What has the focus is marked: an outline, or the frame of a row. */
async function hasVisibleFocus(page: Page): Promise<boolean> {
  return page.evaluate(() => {
    const element = document.activeElement as HTMLElement | null;
    if (!element || element === document.body) return false;
    const style = getComputedStyle(element);
    return style.outlineStyle !== "none" && parseFloat(style.outlineWidth) > 0;
  });
}

test("every screen is reached and left by keys alone, with the focus always to be seen", async ({ page, app }) => {
  await openBench(page, app);
  // The first Tab offers the ways past the rack.
  await page.keyboard.press("Tab");
  await expect(page.getByRole("link", { name: "To the main part" })).toBeFocused();
  await page.keyboard.press("Tab");
  await expect(page.getByRole("link", { name: "To the places" })).toBeFocused();
  await page.keyboard.press("Enter");
  for (const [typed, heading] of SCREENS) {
    await page.keyboard.press(";");
    await page.keyboard.type(typed);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: heading, exact: true }).first()).toBeVisible();
    await axe(page, heading);
    for (let i = 0; i < 25; i++) {
      await page.keyboard.press("Tab");
      expect(await hasVisibleFocus(page), `${heading}, after ${i + 1} Tabs`).toBe(true);
    }
    // A field keeps its letters: the focus goes back to the page first.
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  }
  await page.keyboard.press(";");
  await page.keyboard.type("inbox");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-focused]")).toHaveCount(1);
});

test("every dialog of the bench opens by a key, is clean for screen readers, and Esc leaves it", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  for (const [key, name] of [
    [";", "Go to"],
    ["'", "Run a macro"],
    ["Shift+?", "Every key"],
    ["y", "Select by"],
    ["Shift+Backslash", "Order and groups"],
    ["Control+/", "Narrow by a form"],
    ["Control+s", "Save the list as a batch"],
    ["Shift+L", "Why is it here?"],
    ["a", "File to"],
    ["w", "Defer"],
  ] as const) {
    await page.keyboard.press(key);
    const dialog = page.getByRole("dialog");
    await expect(dialog).toContainText(name);
    await axe(page, name);
    await page.keyboard.press("Escape");
    await expect(dialog).toHaveCount(0);
  }
  await page.keyboard.press("/");
  await page.keyboard.type("form~x");
  await page.keyboard.press("Enter");
  await axe(page, "a problem in the narrow line");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Shift+Backslash");
  await page.keyboard.type("groups by day");
  await page.keyboard.press("Enter");
  await axe(page, "groups");
});

test("what is done is said to screen readers, with the way back", async ({ page, app }) => {
  await openBench(page, app);
  const said = page.locator("p[role=status][aria-live=polite]");
  for (let i = 0; i < 3; i++) await page.keyboard.press("Shift+J");
  await page.keyboard.press("f");
  await expect(said).toHaveText("Archive: 4 messages. U takes it back.");
  await page.keyboard.press("u");
  await expect(said).toHaveText("Took back: Archive, 4 from Inbox.");
  // The list says which of its rows has the focus.
  const list = page.getByRole("listbox", { name: "Messages" });
  const active = await list.getAttribute("aria-activedescendant");
  await page.keyboard.press("j");
  await expect(list).not.toHaveAttribute("aria-activedescendant", active!);
  await expect(page.locator(`#${await list.getAttribute("aria-activedescendant")}`)).toHaveAttribute(
    "data-focused",
    "true",
  );
});

test("fifty messages are cleared with keys only, with at most seventy of them", async ({ page, app }) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  let keys = 0;
  const press = async (...strokes: readonly string[]) => {
    for (const key of strokes) {
      await page.keyboard.press(key);
      keys++;
    }
  };
  // Oldest first, from the top. A verdict is a key: after each, the focus is on the next message.
  await press("\\", "Home");
  const [archived, trashed] = [await app.count("folder=Archive"), await app.count("folder=Trash")];
  // Owed, made into a task, followed up on a day that is asked for, deferred: what stays and what goes alike.
  const ten: readonly (readonly string[])[] = [
    ["f"],
    ["d"],
    ["q"],
    ["f"],
    ["t"],
    ["v"],
    ["w", "Enter"],
    ["d"],
    ["f"],
    ["g", "Enter"],
  ];
  for (let i = 0; i < 50; i++) await press(...ten[i % 10]!);
  await press("Backspace");
  expect(keys).toBeLessThanOrEqual(70);
  await expect.poll(() => app.count("folder=Archive")).toBe(archived + 15);
  expect(await app.count("folder=Trash")).toBe(trashed + 10);
  expect(await app.count("folder=Inbox & owed")).toBe(5);
  expect(await app.count("deferred")).toBe(5);
  expect(await app.count("folder=Inbox & flagged")).toBe(10);
  const gone = 25;
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - gone);
  await expect(page.getByTestId("count")).toHaveText(`${inbox - gone - 5} messages`);
  for (let i = 0; i < 50; i++) await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  await expect.poll(() => app.count("deferred | owed | (folder=Inbox & flagged)")).toBe(0);
  expect([await app.count("folder=Archive"), await app.count("folder=Trash")]).toEqual([archived, trashed]);
});
