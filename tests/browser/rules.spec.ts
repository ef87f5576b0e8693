import type { Page } from "@playwright/test";
import { expect, notice, openBench, test, type App } from "./app";

/** Rules: what is done with mail as it comes in. */

interface Rule {
  readonly id: number;
  readonly narrow: string;
  readonly on: boolean;
}
const rulesOf = (app: App) => app.get<Rule[]>("/rules");
const bring = (app: App, count: number) =>
  app.fetch(`/simulator/mail`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ count }),
  });
const make = async (page: Page, narrow: string, macro: string) => {
  await page.getByLabel("Which mail", { exact: true }).fill(narrow);
  await page.getByLabel("What is done", { exact: true }).selectOption({ label: macro });
  await page.getByRole("button", { name: "Make the rule" }).click();
  await expect(notice(page)).toContainText(`A rule: ${macro}. U takes it back.`);
};

test("mail that a rule files is never seen in the inbox; the ledger takes it back, and makes an exception", async ({
  page,
  app,
}) => {
  const archived = await app.count("folder=Archive");
  await page.goto(`${app.address}/rules`);
  await expect(page.getByText("No rules yet.")).toBeVisible();
  await make(page, "unread", "Archive");
  await page.keyboard.press(";");
  await page.keyboard.type("inbox");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-place]").first()).toBeVisible();
  // Every row that is ever shown is noted.
  await page.evaluate(() => {
    const seen = new Set<string>();
    const look = () => document.querySelectorAll("[data-id]").forEach((row) => seen.add(row.getAttribute("data-id")!));
    look();
    new MutationObserver(look).observe(document.body, { subtree: true, childList: true, attributes: true });
    Object.assign(window, { seen });
  });
  await bring(app, 3);
  await expect.poll(() => app.count("folder=Archive")).toBe(archived + 3);
  const { rows } = await app.get<{ rows: { id: number }[] }>("/messages?narrow=folder%3DArchive&order=newest&limit=3");
  // The window has heard of it by then: the strip says what the rule did.
  await page.keyboard.press(";");
  await page.keyboard.type("ledger");
  await page.keyboard.press("Enter");
  const entry = page.locator("[data-entry]").first();
  await expect(entry).toContainText("by the rule, 3 changed");
  const seen = await page.evaluate(() => [...(window as unknown as { seen: Set<string> }).seen]);
  expect(seen.length).toBeGreaterThan(5);
  expect(rows.filter(({ id }) => seen.includes(String(id)))).toEqual([]);

  await entry.getByRole("button").first().click();
  await page.getByRole("button", { name: "Not by this rule again" }).first().click();
  await expect(notice(page)).toContainText("The rule is for unread !from=");
  await entry.getByRole("button", { name: "undo" }).click();
  await expect.poll(() => app.count("folder=Archive")).toBe(archived);
  expect((await rulesOf(app))[0]!.narrow).toMatch(/^unread( !from=\S+){1,3}$/);
});

test("a rule from a message: what it has in common with others, each with its count, and a macro", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await page.getByRole("button", { name: "rule", exact: true }).click();
  const dialog = page.getByRole("dialog", { name: "A rule from this message" });
  const from = dialog.getByRole("radio").first();
  await expect(from).toBeFocused();
  const narrow = await dialog.getByLabel("Which mail").inputValue();
  const said = await dialog.locator("label").first().innerText();
  const count = Number(/([\d,]+) so far/.exec(said)![1]!.replaceAll(",", ""));
  expect(count).toBe(await app.count(narrow));
  await page.keyboard.press("ArrowDown");
  await expect(dialog.getByLabel("Which mail")).not.toHaveValue(narrow);
  // Macros that ask cannot be chosen.
  await expect(dialog.getByRole("option", { name: /^Defer/ })).toBeDisabled();
  await dialog.getByLabel("What is done").selectOption({ label: "Owe a reply" });
  await page.keyboard.press("Enter");
  await expect(dialog).toHaveCount(0);
  await expect.poll(async () => (await rulesOf(app)).length).toBe(1);
});

test("rules are put in order, switched off by a key, changed, deleted, and each of it is taken back", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/rules`);
  await make(page, "from~ferry", "Archive");
  await make(page, "from~warden", "Trash");
  const all = page.locator("[data-rule]");
  await expect(all).toHaveCount(2);
  // A condition that cannot be read is said at once, and is not made.
  await page.getByLabel("Which mail", { exact: true }).fill("form~x");
  await expect(page.getByRole("alert").filter({ hasText: "from" })).toBeVisible();
  await page.getByLabel("Which mail", { exact: true }).fill("");
  await page.getByRole("heading", { name: "Rules" }).click();
  await page.keyboard.press("j");
  await page.keyboard.press("i");
  await expect(page.getByLabel("Rule 2 is on")).not.toBeChecked();
  await page.getByLabel("Rule 2 up").click();
  await expect(page.getByLabel("Rule 1: which mail")).toHaveValue("from~warden");
  await page.getByLabel("Rule 2: which mail").fill("from~ferry subject~timetable");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("Changed rule 2");
  await all.nth(1).getByRole("button", { name: "Delete" }).click();
  await expect(all).toHaveCount(1);
  const now = async () => (await rulesOf(app)).map(({ narrow, on }) => `${narrow} ${on}`);
  await expect.poll(now).toEqual(["from~warden false"]);
  await page.getByRole("heading", { name: "Rules" }).click();
  await page.keyboard.press("u");
  await expect.poll(now).toEqual(["from~warden false", "from~ferry subject~timetable true"]);
  for (let i = 0; i < 3; i++) await page.keyboard.press("u");
  await expect.poll(now).toEqual(["from~ferry true", "from~warden true"]);
});
