import { expect, test } from "./app";
import { box, eventsOf, focused, on, openAgenda, titled, write } from "./agenda";

/** Hours pulled on by hand, and what is changed while it is being read. */

test("what is changed while it is being read is shown, without a word of what was read in vain", async ({
  page,
  app,
}) => {
  await openAgenda(page, app);
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await write(page, `ropes ${on(1)} 9`);
  await expect.poll(() => titled(app, "ropes")).toBeDefined();
  // Whatever is read from now on is long on its way.
  let onTheirWay = 0;
  await page.route(/\/api\/v1\/events\?from/, async (route) => {
    onTheirWay++;
    await new Promise((resolve) => setTimeout(resolve, 1500));
    await route.continue().catch(() => undefined);
  });
  await page.evaluate(() => {
    const seen: string[] = ((window as unknown as { seen: string[] }).seen = []);
    const hours = document.querySelector("[aria-label=Hours]")!;
    const { top } = hours.getBoundingClientRect();
    const look = () => {
      const alert = document.querySelector("main [role=alert]");
      if (alert) seen.push(alert.textContent);
      if (hours.getBoundingClientRect().top !== top) seen.push("the hours moved");
      requestAnimationFrame(look);
    };
    look();
  });
  for (let n = 1; n <= 3; n++) {
    const before = onTheirWay;
    await page.keyboard.press("Shift+ArrowDown");
    await expect.poll(() => onTheirWay).toBeGreaterThan(before);
  }
  await expect.poll(() => titled(app, "ropes")).toMatchObject({ start: `${on(1)}T09:45` });
  await expect(focused(page)).toContainText("9:45");
  expect(await page.evaluate(() => (window as unknown as { seen: string[] }).seen)).toEqual([]);
});

test("in haste, a key to the next event and one to its name write about that one, not the one before", async ({
  page,
  app,
}) => {
  await openAgenda(page, app);
  await write(page, `ropes ${on(1)} 9`);
  await write(page, `ladders ${on(1)} 11`);
  await expect.poll(async () => (await eventsOf(app)).length).toBe(2);
  await page.keyboard.press("k");
  await expect(focused(page)).toContainText("ropes");
  for (const key of ["j", "Space", "Control+a", "p", "e", "g", "s", "Enter", "Escape"]) await page.keyboard.press(key);
  await expect.poll(() => titled(app, "pegs")).toMatchObject({ start: `${on(1)}T11:00` });
  expect(await titled(app, "ropes")).toMatchObject({ start: `${on(1)}T09:00` });
});

test("whoever writes about what comes next stays with it when something else comes before it", async ({
  page,
  app,
}) => {
  const post = (title: string, day: string) =>
    page.request.post(`${app.address}/api/v1/events`, {
      headers: { origin: app.address },
      data: { title, start: `${day}T10:00`, length: 3600, zone: "UTC" },
    });
  await openAgenda(page, app);
  for (let i = 0; i < 2; i++) await page.keyboard.press("ArrowRight");
  expect((await post("ropes", on(3))).ok()).toBe(true);
  await expect(box(page, "ropes")).toHaveCount(1);
  await page.keyboard.press("Space");
  await page.keyboard.press("End");
  await page.keyboard.type(" and p");
  // Meanwhile, in another window.
  expect((await post("ladders", on(1))).ok()).toBe(true);
  await expect(box(page, "ladders")).toHaveCount(1);
  await page.keyboard.type("egs");
  await page.keyboard.press("Enter");
  await expect.poll(() => titled(app, "ropes and pegs")).toMatchObject({ start: `${on(3)}T10:00` });
  expect(await titled(app, "ladders")).toBeDefined();
});

test("by hand: pulled over the hours to make, move and lengthen; Esc lets go", async ({ page, app }) => {
  await openAgenda(page, app);
  for (let i = 0; i < 2; i++) await page.keyboard.press("ArrowRight");
  const column = page.locator(`[data-day="${on(3)}"]`);
  const at = async (day: string, hour: number) => {
    const spot = (await page.locator(`[data-day="${day}"]`).boundingBox())!;
    return { x: spot.x + spot.width / 2, y: spot.y + (spot.height / 24) * hour };
  };
  // A hand goes to where things are when it gets there.
  type Place = () => Promise<{ x: number; y: number }>;
  const pull = async (from: Place, to: Place) => {
    const begin = await from();
    await page.mouse.move(begin.x, begin.y);
    await page.mouse.down();
    const near = await to();
    await page.mouse.move((begin.x + near.x) / 2, (begin.y + near.y) / 2);
    const end = await to();
    await page.mouse.move(end.x, end.y);
    await page.mouse.up();
  };
  await expect(column).toBeVisible();
  await pull(
    () => at(on(3), 10),
    () => at(on(3), 11.5),
  );
  await expect.poll(() => titled(app, "New")).toMatchObject({ start: `${on(3)}T10:00`, length: 5400 });
  /** Nobody takes hold of what is not drawn yet: the server knows of it before. */
  const isDrawn = (day: string, hour: number, title: string) =>
    expect
      .poll(async () => {
        const [spot, drawn] = [await at(day, hour), await box(page, title).first().boundingBox()];
        return drawn && drawn.x < spot.x && spot.x < drawn.x + drawn.width && Math.abs(drawn.y - spot.y) < 5;
      })
      .toBe(true);
  // What it is is typed at once.
  await page.keyboard.insertText("ropes");
  await page.keyboard.press("Enter");
  await expect.poll(() => titled(app, "ropes")).toMatchObject({ start: `${on(3)}T10:00` });
  await isDrawn(on(3), 10, "ropes");
  await pull(
    () => at(on(3), 10.5),
    () => at(on(4), 13.5),
  );
  await expect.poll(() => titled(app, "ropes")).toMatchObject({ start: `${on(4)}T13:00`, length: 5400 });
  await isDrawn(on(4), 13, "ropes");
  const lowerEdge = async () => {
    const { x, y } = await at(on(4), 14.5);
    return { x, y: y - 2 };
  };
  await pull(lowerEdge, () => at(on(4), 15.25));
  await expect.poll(() => titled(app, "ropes")).toMatchObject({ start: `${on(4)}T13:00`, length: 8100 });
  await expect
    .poll(async () => (await box(page, "ropes").first().boundingBox())!.height)
    .toBeGreaterThan((await at(on(4), 2)).y - (await at(on(4), 0)).y);
  // Pressed without being pulled, nothing is moved; Esc lets go of what is.
  const mid = await at(on(4), 14);
  await page.mouse.click(mid.x, mid.y);
  await page.mouse.move(mid.x, mid.y);
  await page.mouse.down();
  await page.mouse.move(mid.x, mid.y + 90);
  await page.keyboard.press("Escape");
  await page.mouse.up();
  for (let i = 0; i < 4; i++) await page.keyboard.press("u");
  await expect.poll(() => eventsOf(app)).toEqual([]);
});

test("weeks turned faster than they are drawn are the ones that are meant, and nothing of others is met", async ({
  page,
  app,
}) => {
  const NAMES = ["Aspen", "Birch", "Cedar", "Elder", "Hazel", "Larch", "Maple", "Pine", "Rowan"];
  for (const [week, title] of NAMES.entries()) {
    const made = await app.fetch("/events", {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ title, start: `${on(2, week)}T10:00`, length: 3600 }),
    });
    expect(made.status).toBe(201);
  }
  await openAgenda(page, app);
  await expect(box(page, "Aspen")).toBeVisible();
  // What lasts all day stands over the hours, by the same rule.
  await write(page, `Fair ${on(3, 1)} all day`);
  await expect(box(page, "Fair")).toBeVisible();
  await page.keyboard.press("0");
  await expect(box(page, "Fair")).toHaveCount(0);
  await page.keyboard.press("u");
  const sees = async (week: number) => {
    // Boxes by what they say, days by what stands over them, both in the order they stand in.
    await expect(page.locator("[data-event]:not([aria-hidden] *)")).toHaveText([new RegExp(`^${NAMES[week]}`)]);
    await expect(page.locator("[data-day]:not([aria-hidden] *)")).toHaveCount(7);
    const days = await page
      .locator("[data-day]:not([aria-hidden] *)")
      .evaluateAll((all) => all.map((one) => one.getAttribute("data-day")));
    expect(days).toEqual(Array.from({ length: 7 }, (_, i) => on(i, week)));
    // For a screen reader there are these days only, and a click meets what is seen.
    await expect(page.getByRole("group", { name: /day,? \d/ })).toHaveCount(7);
    await expect(page.getByRole("group", { name: /day,? \d/ }).filter({ hasText: NAMES[week]! })).toHaveText(
      new RegExp(`^${NAMES[week]}`),
    );
    await box(page, NAMES[week]!).click();
    await expect(focused(page)).toHaveText(new RegExp(`^${NAMES[week]}`));
  };
  await sees(0);
  for (let i = 0; i < 8; i++) await page.keyboard.press("ArrowRight");
  await sees(8);
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowLeft");
  await sees(3);
  await page.keyboard.press("ArrowRight");
  await sees(4);
  // By the day they lie beside one another, too.
  await page.keyboard.press("2");
  await expect(page.locator("[data-day]:not([aria-hidden] *)")).toHaveCount(1);
  await page.keyboard.press("1");
  await sees(4);
  // What is changed in a week that lies ready is so when it comes.
  const there = (await eventsOf(app)).find(({ title }) => title === "Larch")!;
  await app.fetch(`/events/${there.id}`, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ at: there.start, scope: "all", title: "Larch, moved" }),
  });
  await page.keyboard.press("ArrowRight");
  await expect(box(page, "Larch, moved")).toBeVisible();
});

test("nobody is asked because a field or the window is left; two presses of Enter are one letter", async ({
  page,
  app,
}) => {
  await openAgenda(page, app);
  await write(page, `stocktaking ${on(1)} 10:00 1h`);
  const field = page.getByLabel("Whom to ask, by their addresses");
  const letters = async () => (await app.get<{ recipients: { address: string }[] }[]>("/outgoing")).length;
  await field.fill("bo@ridge.example");
  await page.getByRole("heading", { name: "Agenda" }).click();
  // What was written stays there, to be asked or not.
  await expect(field).toHaveValue("bo@ridge.example");
  await openAgenda(page, app);
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await box(page, "stocktaking").click();
  await field.fill("no address");
  await field.press("Enter");
  await expect(page.getByTestId("notice")).toContainText("is no address");
  await expect(field).toHaveValue("no address");
  await field.fill("ida@larch.example");
  await field.press("Enter");
  await field.press("Enter");
  await field.press("Tab");
  await expect(page.getByRole("list", { name: "Who was asked" })).toContainText("ida@larch.example");
  // Nothing of the one before has gone out, and this one once.
  expect(await letters()).toBe(1);
  expect((await titled(app, "stocktaking")) as object).toMatchObject({ attendees: [{ address: "ida@larch.example" }] });
});
