import { expect, leftOpen, notice, openBench, test } from "./app";
import { axe } from "./axe";

/** Tokens for programs, made and ended by keys. */

test("a token is made by keys for what it may, shown once, and lets nothing in once it is ended", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("you: sign");
  await page.keyboard.press("Enter");
  const section = page.getByRole("region", { name: "Tokens for programs" });
  const make = section.getByRole("button", { name: "Make a token" });
  await expect(make).toBeDisabled();
  await section.getByLabel("What is it for?").click();
  await page.keyboard.type("nightly <i>tidying</i>");
  // Read is ticked; Space ticks the next one, too, and takes the tick off the first.
  await page.keyboard.press("Tab");
  await page.keyboard.press("Space");
  await page.keyboard.press("Tab");
  await page.keyboard.press("Space");
  await page.keyboard.press("Enter");
  const token = await section.getByLabel("The token").inputValue();
  const row = section.getByRole("list", { name: "Tokens" }).getByRole("listitem");
  await expect(row).toContainText("nightly <i>tidying</i>");
  await expect(row).toContainText("may decide; not used yet");
  const asks = (path: string, method = "GET") =>
    fetch(`${app.address}/api/v1${path}`, { method, headers: { authorization: `Bearer ${token}` } }).then(
      ({ status }) => status,
    );
  expect(await asks("/home")).toBe(403);
  expect(await asks("/practice", "POST")).toBeLessThan(300);
  await page.reload();
  await expect(row).toContainText("used last");
  await expect(section.getByLabel("The token")).toHaveCount(0);
  await row.getByRole("button", { name: "End" }).click();
  await expect(notice(page)).toContainText("lets nothing in now.");
  await expect(row).toHaveCount(0);
  expect(await asks("/practice", "POST")).toBe(401);
});

const PASSWORD = "seven larches by the lake";

test("whoever finds a window open makes no way in: who one is has to be said once more", async ({ page, app }) => {
  await app.fetch("/password", {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ old: "", password: PASSWORD }),
  });
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("you: sign");
  await page.keyboard.press("Enter");
  const section = page.getByRole("region", { name: "Tokens for programs" });
  const name = section.getByLabel("What is it for?");
  const make = section.getByRole("button", { name: "Make a token" });
  const asked = page.getByRole("region", { name: "Is it still you?" });
  await name.click();
  await page.keyboard.type("theirs");
  await expect(make).toBeEnabled();
  await expect(asked).toHaveCount(0);
  // The ten minutes go by while the screen stands there.
  await leftOpen(app);
  await page.keyboard.press("Enter");
  await expect(section.getByRole("alert")).toContainText("Say once more who you are");
  await expect(make).toBeDisabled();
  await expect(page.getByRole("button", { name: "Ask for codes" })).toBeDisabled();
  await axe(page, "asked once more who one is");
  await asked.getByLabel("Your password").click();
  await page.keyboard.type("a guess of theirs");
  await page.keyboard.press("Enter");
  await expect(asked.getByRole("alert")).toContainText("not the password you have");
  await expect(section.getByRole("list", { name: "Tokens" })).toHaveCount(0);
  await asked.getByLabel("Your password").click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type(PASSWORD);
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("It is you");
  await expect(asked).toHaveCount(0);
  await name.click();
  await page.keyboard.press("Enter");
  await expect(section.getByRole("list", { name: "Tokens" }).getByRole("listitem")).toContainText("theirs");
});
