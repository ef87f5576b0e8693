import { counted, expect, focusedId, notice, openBench, test } from "./app";

test("walks, decides, takes back and does again, with keys alone", async ({ page, app }) => {
  await openBench(page, app);
  const first = await focusedId(page);
  await page.keyboard.press("j");
  const second = await focusedId(page);
  expect(second).not.toBe(first);
  await page.keyboard.press("ArrowUp");
  expect(await focusedId(page)).toBe(first);
  await page.keyboard.press("End");
  await expect(page.locator("[data-focused]")).toHaveAttribute("data-place", "399");
  await page.keyboard.press("Home");

  const inbox = await app.count("folder=Inbox");
  await page.keyboard.press("f");
  await expect(page.locator(`[data-id="${first}"]`)).toContainText("→ Archive");
  expect(await focusedId(page)).toBe(second);
  await expect(notice(page)).toHaveText(/^Archive: .+\. U takes it back\.$/);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  await page.keyboard.press("u");
  expect(await focusedId(page)).toBe(first);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  await page.keyboard.press("Shift+U");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  await expect(page.getByTestId("ledger").locator("li").first()).toContainText("Did again Archive");
  // Again, on the next one; then settle both.
  await page.keyboard.press("j");
  await page.keyboard.press(".");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 2);
  const listed = await page.locator("[data-place]").first().getAttribute("data-id");
  expect(listed).toBe(first);
  await page.keyboard.press("Backspace");
  await expect(page.locator(`[data-id="${first}"]`)).toHaveCount(0);
});

test("however much has been decided, the list keeps its room", async ({ page, app }) => {
  await openBench(page, app);
  const height = async () => (await page.locator("#messages").boundingBox())!.height;
  const before = await height();
  for (let i = 0; i < 25; i++) await page.keyboard.press("v");
  await expect(page.getByTestId("ledger").locator("li")).toHaveCount(25);
  expect(await height()).toBe(before);
  expect(before).toBeGreaterThan(400);
});

test("a held key decides once, and a held arrow does not fall behind", async ({ page, app }) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  await page.keyboard.down("f");
  for (let i = 0; i < 6; i++) await page.keyboard.down("f");
  await page.keyboard.up("f");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  const at = Number(await page.locator("[data-focused]").getAttribute("data-place"));
  for (let i = 0; i < 150; i++) await page.keyboard.down("j");
  await page.keyboard.up("j");
  await expect(page.locator("[data-focused]")).toHaveAttribute("data-place", String(at + 150));
});

test("ticks ranges and the whole batch, and clears them", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("i");
  await page.keyboard.press("j");
  await page.keyboard.press("Shift+J");
  await page.keyboard.press("Shift+J");
  await expect(page.getByTestId("count")).toHaveText("4 of 400 selected");
  await page.keyboard.press("Shift+K");
  await expect(page.getByTestId("count")).toHaveText("3 of 400 selected");
  await page.keyboard.press("Control+a");
  await expect(page.getByTestId("count")).toHaveText("400 of 400 selected");
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("count")).toHaveText("400 messages");
});

test("narrows, says what is wrong, and widens", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("/");
  await page.keyboard.type("form~ma");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "did you mean" })).toContainText('did you mean "from"?');
  await page.getByLabel("Narrow further").fill("unread & age>1d");
  await page.keyboard.press("Enter");
  await expect.poll(() => counted(page)).toBe(await app.count("folder=Inbox & unread & age>1d"));
  // What was typed as two conditions is two chips, each of which can be dropped.
  await expect(page.getByRole("button", { name: "unread: drop this condition" })).toBeVisible();
  await page.keyboard.press("/");
  await page.keyboard.type("zebra");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("listbox", { name: "Messages" })).toContainText("Nothing matches");
  for (let i = 0; i < 3; i++) await page.keyboard.press(",");
  await expect(page.getByTestId("count")).toHaveText("400 messages");
});

test("asks for a folder, which can be made on the spot; goes to places; runs by name; shows keys", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await page.keyboard.press("a");
  await page.keyboard.type("Answered/Late");
  await page.keyboard.press("Enter");
  await expect.poll(() => app.count("folder=Answered/Late")).toBe(1);
  await page.keyboard.press(";");
  await page.keyboard.type("late");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toHaveText("1 message");
  await page.keyboard.press("'");
  await page.keyboard.type("trash");
  await page.keyboard.press("Enter");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  await page.keyboard.press("Shift+?");
  await page.getByLabel("Search keys").fill("undo");
  await expect(page.getByRole("list", { name: "Keys" })).toContainText("U");
  await page.keyboard.press("Escape");
  await page.keyboard.press(";");
  await page.keyboard.type("inbox");
  await page.keyboard.press("Enter");
  await page.keyboard.press("g");
  await page.keyboard.type("+3d");
  await expect(page.getByRole("dialog")).toContainText("09:00");
});

test("a second window follows", async ({ page, context, app }) => {
  await openBench(page, app);
  const other = await context.newPage();
  await openBench(other, app);
  const id = await focusedId(page);
  await page.keyboard.press("d");
  await expect(other.locator(`[data-id="${id}"]`)).toHaveCount(0);
  await other.keyboard.press("u");
  await expect(page.locator(`[data-id="${id}"]`)).not.toContainText("→ Trash");
  await expect(other.locator(`[data-id="${id}"]`)).toHaveCount(1);
});

test("while the server is away decisions are kept, and sent when it is back, also by another window", async ({
  page,
  context,
  app,
}) => {
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  await app.stop();
  for (let i = 0; i < 3; i++) await page.keyboard.press("d");
  await expect(page.getByText("server away, 3 waiting")).toBeVisible();
  await expect(page.getByTestId("ledger").locator("li").first()).toContainText("waiting");
  await app.start();
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 3);
  await expect(page.getByText("server away")).toHaveCount(0);
  await expect(page.getByTestId("ledger").locator("li", { hasText: "waiting" })).toHaveCount(0);

  await app.stop();
  await page.keyboard.press("f");
  await expect(page.getByText("server away, 1 waiting")).toBeVisible();
  await page.close();
  await app.start();
  const later = await context.newPage();
  await openBench(later, app);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 4);
});
