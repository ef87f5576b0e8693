import { counted, expect, notice, openBench, test, type App } from "./app";

/** Hours: mail waits outside the times of the week in which it is let in. */

interface Stretch {
  readonly day: number;
  readonly from: number;
  readonly to: number;
}
const hoursOf = async (app: App) =>
  (await app.get<{ hours: { week: Stretch[]; through: string | null; on: boolean }[] }>("/hours")).hours;
const bring = (app: App, count: number) =>
  app.fetch(`/simulator/mail`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ count }),
  });
const waiting = async (app: App) => (await app.get<{ waiting: number }>("/hours")).waiting;

test("three wait by count only; they are let in by a key, wait again by undo, and an exception lets one through", async ({
  page,
  app,
}) => {
  // The day that is farthest away: nothing is let in while this runs.
  const day = (new Date().getUTCDay() + 2) % 7;
  await app.fetch(`/hours`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ narrow: "", week: [{ day, from: 600, to: 660 }] }),
  });
  await openBench(page, app);
  const before = await counted(page);
  await bring(app, 3);
  const bar = page.getByTestId("hours");
  await expect(bar).toContainText("3 messages wait until");
  await expect(bar).toContainText("10:00");
  expect(await counted(page)).toBe(before);
  await bar.getByRole("button", { name: "Let them in now" }).click();
  await expect.poll(() => counted(page)).toBe(before + 3);
  await expect(bar).toHaveCount(0);
  await page.locator("[data-place='0']").click();
  await page.keyboard.press("u");
  await expect(bar).toContainText("3 messages wait");
  await expect.poll(() => counted(page)).toBe(before);
  // A change of the hours is for what waits already.
  await page.goto(`${app.address}/rules`);
  await page.getByLabel("Hours 1: which comes in at any time").fill("subject~the | !subject~the");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("Changed hours 1");
  await expect.poll(() => waiting(app)).toBe(0);
  await page.getByRole("heading", { name: "Rules" }).click();
  await page.keyboard.press("u");
  await expect.poll(async () => (await hoursOf(app))[0]!.through).toBeNull();
});

test("a week is drawn by keys and by pulling, said in words, switched off, deleted, and each is taken back", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/rules`);
  await page.getByRole("button", { name: "New hours" }).click();
  const row = page.locator("[data-hours]");
  await expect(row).toContainText("Mon–Fri 08:00–09:00, 13:00–13:30");
  // From the button: the fields of the row, and then the week.
  const grid = row.getByRole("application");
  for (let i = 0; i < 6 && !(await grid.evaluate((one) => one === document.activeElement)); i++)
    await page.keyboard.press("Tab");
  await expect(grid).toBeFocused();
  await expect(row.getByRole("status")).toHaveText("Mon 08:00 to 08:30: let in");
  await page.keyboard.press("Space");
  const monday = async () => (await hoursOf(app))[0]!.week.filter(({ day }) => day === 0);
  await expect.poll(monday).toEqual([
    { day: 0, from: 510, to: 540 },
    { day: 0, from: 780, to: 810 },
  ]);
  // From eight on Saturday on to ten, and Sunday with it.
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowDown");
  await page.keyboard.down("Shift");
  for (const key of ["ArrowRight", "ArrowRight", "ArrowRight", "ArrowDown"]) await page.keyboard.press(key);
  await page.keyboard.up("Shift");
  await expect(row).toContainText("Sat–Sun 08:00–10:00");
  // Pulled over with the mouse: closed again where it begins in what is open.
  const box = (await grid.boundingBox())!;
  const at = (day: number, hour: number) =>
    [box.x + (box.width * (hour + 0.25)) / 24, box.y + (box.height * (day + 0.5)) / 7] as const;
  await page.mouse.move(...at(5, 8));
  await page.mouse.down();
  await page.mouse.move(...at(6, 9), { steps: 4 });
  await page.mouse.up();
  await expect(row).toContainText("Sat–Sun 09:30–10:00");
  // Nothing waits before they are switched on.
  await expect(page.getByLabel("Hours 1 are on")).not.toBeChecked();
  await page.getByLabel("Hours 1 are on").check();
  await expect.poll(async () => (await hoursOf(app))[0]!.on).toBe(true);
  await row.getByRole("button", { name: "Delete" }).click();
  await expect(row).toHaveCount(0);
  await page.getByRole("heading", { name: "Rules" }).click();
  for (let i = 0; i < 3; i++) await page.keyboard.press("u");
  await expect(row).toContainText("Sat–Sun 08:00–10:00");
  await page.keyboard.press("u");
  await page.keyboard.press("u");
  await expect(row).toContainText("Mon–Fri 08:00–09:00, 13:00–13:30");
});

test("what is made before the list was read for the first time is in it", async ({ page, app }) => {
  const held: (() => void)[] = [];
  await page.route(/\/api\/v1\/hours$/, async (route) => {
    // As it was when it was asked for, told late.
    const answer = route.request().method() === "GET" && held.length === 0 ? await route.fetch() : null;
    if (answer === null) return route.continue();
    await new Promise<void>((resolve) => held.push(resolve));
    await route.fulfill({ response: answer }).catch(() => undefined);
  });
  await page.goto(`${app.address}/rules`);
  await expect.poll(() => held.length).toBe(1);
  await page.getByRole("button", { name: "New hours" }).click();
  await expect.poll(async () => (await hoursOf(app)).length).toBe(1);
  held[0]!();
  await expect(page.locator("[data-hours]")).toHaveCount(1);
});
