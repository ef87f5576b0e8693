import { expect, notice, openBench, test } from "./app";

test("folders are made, renamed with what is below, merged and removed; their mail goes where it is said, and comes back", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/places`);
  await page.getByLabel("Path of a new folder").fill("Season/Winter");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("is made");
  await page.getByLabel("Path of Bookings", { exact: true }).fill("Requests");
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Path of Requests/Groups")).toBeVisible();
  await page.getByLabel("Path of Weather").fill("Press");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("already");
  // What was typed is still there to be mended.
  await expect(page.getByLabel("Path of Weather")).toHaveValue("Press");
  await expect(page.getByLabel("Path of Weather")).toHaveAttribute("aria-invalid", "true");
  await page.getByLabel("Path of Weather").click();
  await page.keyboard.press("Escape");
  await expect(page.getByLabel("Path of Weather")).toHaveValue("Weather");
  const [weather, press] = [await app.count("folder=Weather"), await app.count("folder=Press")];
  await page.getByRole("button", { name: "Merge Weather into another" }).click();
  await page.keyboard.type("press");
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Path of Weather")).toHaveCount(0);
  await expect.poll(() => app.count("folder=Press")).toBe(weather + press);
  await page.getByRole("button", { name: "Remove Requests", exact: true }).click();
  await expect(page.getByRole("dialog")).toContainText("where does its mail go");
  await page.keyboard.type("archive");
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Path of Requests/Groups")).toHaveCount(0);
  await page.locator("h1").click();
  await page.keyboard.press("u");
  await expect(page.getByLabel("Path of Requests/Groups")).toBeVisible();
  await page.keyboard.press("u");
  await expect(page.getByLabel("Path of Weather")).toBeVisible();
  await expect.poll(() => app.count("folder=Weather")).toBe(weather);
  await page.getByRole("button", { name: "Remove Season/Winter" }).click();
  await expect(page.getByLabel("Path of Season/Winter")).toHaveCount(0);
});

test("labels come off one message or all mail, markers are chosen, ordered and narrowed by", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("/");
  await page.keyboard.type("label=Invoice");
  await page.keyboard.press("Enter");
  const invoices = await app.count("label=Invoice");
  await page.getByRole("button", { name: "Take the label Invoice off this message" }).click();
  await expect.poll(() => app.count("label=Invoice")).toBe(invoices - 1);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("label=Invoice")).toBe(invoices);
  await page.goto(`${app.address}/places`);
  await page.getByRole("button", { name: "Remove the label Invoice" }).click();
  await expect(page.getByLabel("Name of Invoice")).toHaveCount(0);
  await page.locator("h1").click();
  await page.keyboard.press("u");
  await expect(page.getByLabel("Name of Invoice")).toBeVisible();
  await expect.poll(() => app.count("label=Invoice")).toBe(invoices);
  const markers = page.getByRole("list", { name: "All markers" }).getByRole("listitem");
  await expect(markers).toHaveCount(4);
  await page.getByRole("button", { name: "how far it is" }).click();
  await expect(markers).toHaveCount(8);
  await expect(page.getByText("There are eight")).toBeVisible();
  await markers.nth(1).getByRole("button", { name: "up" }).click();
  await expect(markers.first().getByLabel(/^Letter of/)).toHaveValue("L");
  await markers.nth(1).getByLabel("in use").uncheck();
  await expect(notice(page)).toContainText("not offered");
  // What comes next is planned by what is stored.
  const used = async () => (await app.get<{ letter: string; used: boolean }[]>("/markers")).filter((one) => one.used);
  await expect.poll(async () => (await used()).map(({ letter }) => letter).slice(0, 2)).toEqual(["L", "W"]);
  // Next marker goes through those in use, in their order.
  await openBench(page, app);
  await page.keyboard.press("c");
  await page.keyboard.press("c");
  await expect.poll(() => app.count("marker=W")).toBe(1);
  expect(await app.count("marker=R")).toBe(0);
  await page.keyboard.press(";");
  await page.keyboard.type("w waiting");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toHaveText("1 message");
});

test("trash says how long it keeps mail, and emptying asks once, with the count", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("Shift+J");
  await page.keyboard.press("Shift+J");
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Trash")).toBe(3);
  await page.keyboard.press(";");
  await page.keyboard.type("trash");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Trash keeps a message for 30 days")).toBeVisible();
  await expect(page.getByRole("region", { name: "Message" })).toContainText("deleted for good on");
  await page.getByRole("button", { name: "Empty it now: 3" }).click();
  await expect(page.getByRole("dialog")).toContainText("3 messages will be deleted for good");
  await page.keyboard.press("Escape");
  expect(await app.count("folder=Trash")).toBe(3);
  await page.getByRole("button", { name: "Empty it now: 3" }).click();
  await page
    .getByRole("dialog")
    .getByRole("button", { name: /delete/i })
    .click();
  await expect.poll(() => app.count("folder=Trash")).toBe(0);
  await expect(page.getByTestId("count")).toHaveText("0 messages");
});

test("a sender is blocked and let go, by hand and by a key, and every window shows it", async ({
  page,
  context,
  app,
}) => {
  await page.goto(`${app.address}/places`);
  await page.getByLabel("Address to block").fill("no address");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("write one address");
  await page.getByLabel("Address to block").fill("Ads@Shop.example");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Unblock ads@shop.example" })).toBeVisible();
  const bench = await context.newPage();
  await openBench(bench, app);
  await bench.keyboard.press("z");
  const rows = page.getByRole("list", { name: "All blocked senders" }).getByRole("listitem");
  await expect(rows).toHaveCount(2);
  await bench.keyboard.press("u");
  await expect(rows).toHaveCount(1);
  await page.getByRole("button", { name: "Unblock ads@shop.example" }).click();
  await expect(rows).toContainText("Nobody is blocked");
  await page.locator("h1").click();
  await page.keyboard.press("u");
  await expect(page.getByRole("button", { name: "Unblock ads@shop.example" })).toBeVisible();
});
