import { expect, openBench, test } from "./app";

/** A newcomer's first steps, on letters of nobody's. */

test("practice letters are decided, taken back, recorded and bound, by what the screen itself says", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const mail = await app.count("");
  await expect(page.getByRole("region", { name: "Ledger" })).toContainText("New here?");
  await page.keyboard.press("F9");
  const bar = page.getByTestId("practice");
  await expect(bar).toBeVisible();
  await expect(page.getByTestId("count")).toHaveText("12 messages");
  const done = bar.locator("[data-done]");
  await expect(done).toHaveCount(0);
  await page.keyboard.press("f");
  await expect(done).toHaveCount(1);
  await page.keyboard.press("u");
  await expect(done).toHaveCount(2);
  await bar.getByRole("button", { name: "Record" }).click();
  await page.keyboard.press("v");
  await page.keyboard.press("k");
  await page.keyboard.press("q");
  await page.getByRole("button", { name: "Stop and make a macro" }).click();
  await expect(page).toHaveURL(/workshop/);
  await page.keyboard.press(";");
  await page.keyboard.type("practice");
  await page.keyboard.press("Enter");
  await expect(done).toHaveCount(3);
  expect((await bar.getByRole("listitem").allInnerTexts()).at(-1)).toMatch(/^4\. put it on a key/);
  // Gone by one key, for good, wherever they were put; everything else is as it was.
  await page.keyboard.press("Home");
  await page.keyboard.press("d");
  await page.keyboard.press("f");
  await page.keyboard.press("Shift+F9");
  await expect(page.getByTestId("notice")).toContainText("Practising is over");
  await expect.poll(() => app.count("")).toBe(mail);
  await expect(page.getByRole("navigation", { name: "Places" }).getByText("Practice")).toHaveCount(0);
  await page.reload();
  await expect(page.locator("[data-place='0']")).toBeVisible();
  await expect(bar).toHaveCount(0);
});

test("who wants no practice is not asked again", async ({ page, app }) => {
  await openBench(page, app);
  const ledger = page.getByRole("region", { name: "Ledger" });
  await expect(ledger).toContainText("New here?");
  await page.keyboard.press("Shift+F9");
  await expect(ledger).not.toContainText("New here?");
  await page.reload();
  await expect(ledger).toContainText("Nothing has been decided yet");
  await expect(ledger).not.toContainText("New here?");
});
