import { counted, expect, focusedId, notice, openBench, test } from "./app";

test("new mail stands in every window by itself; a service that is away says so, and what it has comes in later", async ({
  page,
  context,
  app,
}) => {
  await openBench(page, app);
  const before = await counted(page);
  const focused = await focusedId(page);
  const places = await context.newPage();
  await places.goto(`${app.address}/places`);
  await places.getByRole("button", { name: "Bring 1 now" }).click();
  await expect(notice(places)).toContainText("1 message on the way");
  await expect(places.getByTestId("service")).toContainText("1 message so far");
  await expect.poll(() => counted(page)).toBe(before + 1);
  // Whoever is reading goes on reading: the focus is where it was, and the new one stands above it.
  expect(await focusedId(page)).toBe(focused);
  const newest = page.locator('[data-place="0"]');
  await expect(newest).toHaveAccessibleName(/Unread/);
  expect(await newest.getAttribute("data-id")).not.toBe(focused);

  await places.getByLabel("It answers").selectOption("not at all");
  await places.getByRole("button", { name: "Bring 10 now" }).click();
  await expect(places.getByTestId("service")).toContainText("away. 10 messages wait there");
  expect(await counted(page)).toBe(before + 1);
  await places.getByLabel("It answers").selectOption("well");
  await expect.poll(() => counted(page)).toBe(before + 11);
  await expect(places.getByTestId("service")).toContainText("11 messages so far");

  // Settings of the service are taken back like others, by the key.
  const rate = async () => (await app.get<{ rate: number }>("/simulator")).rate;
  await places.getByLabel("It brings").selectOption("30 an hour");
  await expect.poll(rate).toBe(30);
  await expect(places.getByLabel("It brings")).toHaveValue("30");
  await places.locator("h1").click();
  await places.keyboard.press("u");
  // Shown before the service was told, and still so afterwards.
  await expect(places.getByLabel("It brings")).toHaveValue("0");
  await expect.poll(rate).toBe(0);
  await expect(places.getByLabel("It brings")).toHaveValue("0");

  // What came in by itself is mail like any other.
  await page.keyboard.press("Home");
  await page.keyboard.press("f");
  await expect(newest).toContainText("→ Archive");
  await page.keyboard.press("u");
  await expect(newest).not.toContainText("→ Archive");
});
