import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { expect, notice, openBench, strokes, test } from "./app";

async function workshop(page: Page, address: string): Promise<void> {
  await page.goto(`${address}/workshop`);
  await expect(page.locator("[data-listed]").first()).toBeVisible();
}

async function addStep(page: Page, name: string, under = ""): Promise<void> {
  await page.locator(`[data-add-step='${under}']`).click();
  await page.keyboard.type(name);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toHaveCount(0);
}

test("a first-time person makes a three-step macro and binds it, with keys alone", async ({ page, app }) => {
  await openBench(page, app);
  const filed = await app.count("folder=Archive & label=Deadline");
  const deck = page.getByRole("region", { name: "Deck" });
  let keys = 0;
  const press = async (...strokes: readonly string[]) => {
    for (const key of strokes) await page.keyboard.press(key);
    keys += strokes.length;
  };
  const type = async (text: string) => {
    await page.keyboard.type(text);
    keys += text.length;
  };
  await press(";");
  await type("work");
  await press("Enter");
  // The screen begins with making a macro; its name is typed at once, and no letter is lost.
  await expect(page.getByRole("button", { name: "New macro", exact: true })).toBeFocused();
  await press("Enter");
  await type("Warden report");
  await press("Enter");
  await expect(page.locator("[data-add-step='']")).toBeFocused();
  await press("Enter");
  await type("mark r");
  await press("Enter");
  // A step without parameters leads on to the next one.
  await expect(page.locator("[data-add-step='']")).toBeFocused();
  await press("Enter");
  await type("label");
  await press("Enter");
  await expect(page.getByRole("dialog", { name: "Which label?" })).toBeVisible();
  await type("dead");
  await press("Enter");
  await expect(page.locator("[data-step='2']")).toContainText("Deadline");
  // From the field just chosen, Tab comes to where the next step is added.
  await press("Tab");
  await expect(page.locator("[data-add-step='']")).toBeFocused();
  await press("Enter");
  await type("arch");
  await press("Enter");
  await expect(page.locator("[data-step]")).toHaveCount(3);
  await expect(page.locator("[data-add-step='']")).toBeFocused();
  for (
    let i = 0;
    i < 40 &&
    !(await page.getByRole("button", { name: "Bind to a sequence" }).evaluate((e) => e === document.activeElement));
    i++
  )
    await press("Shift+Tab");
  await press("Enter", "=", "f", "Enter");
  // What it takes is written in docs/macros.md.
  expect(keys).toBeLessThanOrEqual(90);
  await expect(page.locator("kbd", { hasText: "= then F" })).toBeVisible();
  await page.keyboard.press(";");
  await page.keyboard.type("inbox");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-place]").first()).toBeVisible();
  // News that come between the two keys of a sequence do not part them, nor does a window that was busy.
  await strokes(page, ["=", "f"], async () => {
    await expect(deck).toContainText("= …");
    const renamed = await app.fetch(`/decks/1`, {
      method: "PATCH",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ name: "Counter" }),
    });
    expect(renamed.ok).toBe(true);
    await expect(deck).toContainText("Deck 1, Counter");
    await page.evaluate(() => {
      for (const began = performance.now(); performance.now() - began < 1500;);
    });
  });
  await expect.poll(() => app.count("folder=Archive & label=Deadline")).toBe(filed + 1);
});

test("a digit held shows its deck while it is held; tapped, it stays", async ({ page, app }) => {
  await openBench(page, app);
  const deck = page.getByRole("region", { name: "Deck" });
  await expect(deck).toContainText("Deck 1");
  await page.keyboard.down("2");
  await expect(deck).toContainText("Deck 2");
  // Held longer than a tap, by the times of the strokes.
  await page.waitForFunction(
    (until) => performance.now() > until,
    (await page.evaluate(() => performance.now())) + 400,
  );
  await page.keyboard.up("2");
  await expect(deck).toContainText("Deck 1");
  await page.keyboard.press("2");
  await expect(deck).toContainText("Deck 2");
  await page.keyboard.press("1");
  await expect(deck).toContainText("Deck 1");
});

test("conditions, branches and values; what the check finds is mended by its repair", async ({ page, app }) => {
  await workshop(page, app.address);
  await page.getByRole("button", { name: "New macro", exact: true }).click();
  await page.keyboard.type("Sort");
  await page.keyboard.press("Enter");
  await addStep(page, "if");
  await page.getByLabel("condition", { exact: true }).fill("form~warden");
  await expect(page.locator("[data-step='1']")).toContainText("did you mean");
  await page.getByLabel("condition", { exact: true }).fill("from~warden");
  await page.keyboard.press("Enter");
  await addStep(page, "flag", "1.");
  await addStep(page, "trash", "1.");
  await addStep(page, "note", "1.else.");
  await page.locator("[data-step='1.else.1']").getByLabel("text, where it comes from").selectOption("first name");
  // The flag goes with the trash: said beside the step, and mended there.
  const finding = page.getByLabel("Macro", { exact: true }).locator("[data-finding='flag-lost']");
  await expect(finding).toContainText("Step 1.2");
  await finding.getByRole("button", { name: "Take step 1.1 out" }).click();
  await expect(finding).toHaveCount(0);
  await expect(page.locator("[data-step='1.1']")).toContainText("Trash");
  // Settings: which messages, and when it asks.
  await page.getByText("Settings", { exact: true }).click();
  await page.getByLabel("which messages it is for").fill("folder=Inbox");
  await page.keyboard.press("Enter");
  await page.getByLabel("asks first", { exact: true }).selectOption("always");
  await page.getByLabel("What it would do to").selectOption({ index: 1 });
  await expect
    .poll(async () => (await app.get<{ settings: object }[]>("/macros")).at(-1)!.settings)
    .toEqual({ for: "folder=Inbox", confirm: "always" });
  await expect(page.getByLabel("Check").locator("tr").first()).toBeVisible();
  // It runs by name, asks as set, and does to each message what it should.
  await openBench(page, app);
  const wardens = await app.count("folder=Inbox & from~warden");
  await page.keyboard.press("Control+a");
  await page.keyboard.press("'");
  await page.keyboard.type("sort");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: /^Run on/ }).press("Enter");
  await expect.poll(() => app.count("folder=Trash & from~warden")).toBe(wardens);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Inbox & from~warden")).toBe(wardens);
});

test("Alt shows what a pad would do, and letting go does nothing; deleting for good asks", async ({ page, app }) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  await page.keyboard.down("Alt");
  await page.keyboard.down("f");
  await expect(page.getByLabel("What Archive would do")).toContainText("Inbox → Archive");
  await page.keyboard.up("f");
  await page.keyboard.up("Alt");
  await expect(page.getByLabel("What Archive would do")).toHaveCount(0);
  expect(await app.count("folder=Inbox")).toBe(inbox);
  await page.keyboard.press("i");
  await page.keyboard.press("j");
  await page.keyboard.press("i");
  await page.keyboard.press("Shift+D");
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("2 messages will be deleted for good");
  // Enter alone leaves everything as it is.
  await page.keyboard.press("Enter");
  await expect(dialog).toHaveCount(0);
  expect(await app.count("")).toBeGreaterThanOrEqual(inbox);
  await page.keyboard.press("Shift+D");
  await dialog.getByRole("button", { name: "Delete 2 for good" }).click();
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 2);
  expect(await app.count("folder=Trash")).toBe(0);
});

test("what was done by hand is recorded, without what was undone, and becomes a macro", async ({ page, app }) => {
  await workshop(page, app.address);
  await page.getByRole("button", { name: "Record" }).click();
  await expect(page.getByText("Recording", { exact: true })).toBeVisible();
  await page.keyboard.press("c");
  await page.keyboard.press("u");
  await page.keyboard.press("v");
  await page.keyboard.press("a");
  await page.keyboard.type("weather");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("ledger").locator("li").first()).toContainText("File to");
  await page.getByRole("button", { name: "Stop and make a macro" }).click();
  await expect(page.getByLabel("Name of the macro")).toHaveValue("Recorded");
  await expect(page.locator("[data-step]")).toHaveCount(3);
  await expect(page.locator("[data-step='3']")).toContainText("Weather");
  // The folder stays as chosen; one choice makes it a question again.
  await page.locator("[data-step='3']").getByLabel("to, where it comes from").selectOption("asked once");
  await expect(page.getByLabel("Check")).toContainText("It asks first");
});

test("a pad switched off does nothing, one copied works twice, and one that cannot act says why", async ({
  page,
  app,
}) => {
  await workshop(page, app.address);
  await page.locator("[data-pad='KeyF']").click();
  await page.getByRole("button", { name: "switch off" }).click();
  await expect(page.locator("[data-pad='KeyF']")).toContainText("off");
  await page.locator("[data-pad='KeyD']").click();
  await page.getByText("Settings", { exact: true }).click();
  await page.getByLabel("which messages it is for").fill("from~nobodyatall");
  await page.keyboard.press("Enter");
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  await page.keyboard.press("f");
  await expect(page.locator("[data-macro='Trash']")).toHaveAttribute("data-dimmed", "true");
  await expect(page.locator("[data-macro='Trash']")).toContainText("not for this message");
  await page.keyboard.press("d");
  await expect(notice(page)).toContainText("not done: the macro is not for it");
  expect(await app.count("folder=Inbox")).toBe(inbox);
});

test("the ledger finds runs by message, and takes any of them back; tasks lead back to their message", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  // A marker leaves the focus where it is, a task is a verdict: the focus goes on.
  await page.keyboard.press("c");
  await page.keyboard.press("t");
  await page.keyboard.press("f");
  await page.keyboard.press("Home");
  // The task hangs on its message, and is counted in the rack.
  await expect(page.getByLabel("Tasks", { exact: true }).getByRole("link", { name: /^task: / })).toBeVisible();
  await expect(page.getByRole("link", { name: "Tasks 1" })).toBeVisible();
  await page.getByRole("link", { name: "history" }).click();
  await expect(page.locator("[data-entry]")).toHaveCount(2);
  // Not the last run, but the one before.
  const task = page.locator("[data-entry]").filter({ hasText: "Make task" }).last();
  await task.getByRole("button", { name: /^Make task/ }).click();
  await expect(page.getByLabel("What it changed")).toContainText("flag: none → flagged");
  await page.goto(`${app.address}/tasks`);
  await expect(page.getByText("1 task to do")).toBeVisible();
  await page.getByRole("button", { name: "open the message" }).click();
  await expect(page.locator("[data-focused]")).toBeVisible();
  await page.getByRole("link", { name: "history" }).click();
  await task.getByRole("button", { name: "undo" }).click();
  await expect(task).toHaveAttribute("data-state", "undone");
  expect(await app.count("folder=Inbox & marker=R")).toBeGreaterThan(0);
  await task.getByRole("button", { name: "redo" }).click();
  await expect(task).toHaveAttribute("data-state", "done");
});

test("a pack goes out as a file and comes in again, with clashes and missing folders settled", async ({
  page,
  app,
}) => {
  await workshop(page, app.address);
  await page.locator("[data-pad='KeyF']").click();
  await page.getByRole("button", { name: "Packs" }).click();
  const download = page.waitForEvent("download");
  await page.getByRole("menuitem", { name: "Save Archive as a pack" }).click();
  const text = await readFile(await (await download).path(), "utf8");
  const pack = JSON.parse(text) as { macros: { steps: object[] }[]; folders: string[] };
  pack.macros[0]!.steps.push({ do: "copy", to: "Elsewhere" });
  pack.folders.push("Elsewhere");
  const file = page.getByLabel("Macro pack to take in");
  await file.setInputFiles({ name: "p.json", mimeType: "application/json", buffer: Buffer.from("no pack") });
  await expect(notice(page)).toContainText("not JSON");
  await file.setInputFiles({ name: "p.json", mimeType: "application/json", buffer: Buffer.from(JSON.stringify(pack)) });
  await page.getByLabel("What to do with Archive").selectOption("both");
  await page.getByLabel("Folder for Elsewhere").selectOption("Weather");
  await page.getByRole("button", { name: "Take in 1 macro" }).click();
  await expect(page.locator("[data-listed='Archive 2']")).toBeVisible();
  await page.locator("[data-listed='Archive 2']").click();
  await expect(page.locator("[data-step='3']")).toContainText("Weather");
});
