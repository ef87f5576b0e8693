import { box, eventsOf, focused, monday, on, openAgenda, titled, write } from "./agenda";
import { expect, notice, test } from "./app";
import { axe } from "./axe";

/** What is planned: made in a line, moved by keys, given to tasks, taken back. */

test("an event is written in a line, moved, made longer and deleted by keys, and all of it is taken back", async ({
  page,
  app,
}) => {
  await openAgenda(page, app);
  await page.keyboard.press("n");
  await page.keyboard.insertText(`inspection ${on(1)} 10-12 @ Tarn Hut`);
  await expect(page.getByRole("form", { name: "A new event" }).getByRole("status")).toContainText(
    /inspection · .*10:00, 2 h, at Tarn Hut/,
  );
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await expect(focused(page)).toContainText("inspection");
  await expect.poll(() => titled(app, "inspection")).toMatchObject({ start: `${on(1)}T10:00`, length: 7200 });
  await page.keyboard.press("Shift+ArrowDown");
  await page.keyboard.press("Shift+ArrowDown");
  await page.keyboard.press("Shift+ArrowRight");
  await page.keyboard.press("Control+ArrowDown");
  await expect.poll(() => titled(app, "inspection")).toMatchObject({ start: `${on(2)}T10:30`, length: 8100 });
  await expect(focused(page)).toContainText("inspection");
  await page.keyboard.press("Space");
  await page.keyboard.press("Control+a");
  await page.keyboard.insertText("water test");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await expect.poll(() => titled(app, "water test")).toBeDefined();
  await page.keyboard.press("Delete");
  await expect(box(page, "water test")).toHaveCount(0);
  await expect.poll(() => eventsOf(app)).toEqual([]);
  // Six deeds, and the first of all.
  await page.keyboard.press("u");
  await expect(box(page, "water test")).toHaveCount(1);
  for (let i = 0; i < 5; i++) await page.keyboard.press("u");
  await expect.poll(() => titled(app, "inspection")).toMatchObject({ start: `${on(1)}T10:00`, length: 7200 });
  await page.keyboard.press("u");
  await expect.poll(() => eventsOf(app)).toEqual([]);
  await expect(page.locator("[data-event]:not([aria-hidden] *)")).toHaveCount(0);
});

test("what comes again is asked about: one of it, what follows, all", async ({ page, app }) => {
  await openAgenda(page, app);
  await write(page, `round ${on(0)} 9:00 30m every day`);
  await expect(box(page, "round")).toHaveCount(7);
  await page.keyboard.press("j");
  await page.keyboard.press("Shift+ArrowDown");
  await expect(page.getByRole("dialog")).toContainText("It comes again");
  await page.keyboard.press("1");
  await expect
    .poll(async () => (await eventsOf(app)).find(({ instead }) => instead !== null))
    .toMatchObject({ instead: `${on(1)}T09:00`, start: `${on(1)}T09:15` });
  await page.keyboard.press("j");
  await page.keyboard.press("Delete");
  await page.keyboard.press("1");
  await expect(box(page, "round")).toHaveCount(6);
  await page.keyboard.press("End");
  await page.keyboard.press("Delete");
  await page.keyboard.press("2");
  await expect(box(page, "round")).toHaveCount(5);
  await page.keyboard.press("Home");
  await page.keyboard.press("Delete");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await expect(box(page, "round")).toHaveCount(5);
  await page.keyboard.press("Delete");
  await page.keyboard.press("3");
  await expect(box(page, "round")).toHaveCount(0);
  for (let i = 0; i < 4; i++) await page.keyboard.press("u");
  await expect(box(page, "round")).toHaveCount(7);
  await expect
    .poll(async () => (await eventsOf(app)).map(({ rule, except }) => [rule, except]))
    .toEqual([["FREQ=DAILY", []]]);
});

test("tasks are pulled into the week, given the first free time by a key, and fitted all at once", async ({
  page,
  app,
}) => {
  const task = (title: string, due: string, estimate: number) =>
    page.request.post(`${app.address}/api/v1/tasks`, { data: { title, due, estimate } });
  await task("ropes", `${on(2)}T12:00:00Z`, 60);
  await task("blankets", `${on(3)}T12:00:00Z`, 90);
  await task("gas", `${on(-40)}T12:00:00Z`, 30);
  await openAgenda(page, app);
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  const shelf = page.getByRole("list", { name: "Open tasks" });
  await expect(shelf.getByRole("listitem")).toHaveCount(3);
  const from = (await shelf.getByText("ropes").boundingBox())!;
  const to = (await page.locator(`[data-day="${on(1)}"]`).boundingBox())!;
  await page.mouse.move(from.x + 10, from.y + 5);
  await page.mouse.down();
  await page.mouse.move(to.x + 60, to.y + (to.height / 24) * 12);
  await page.mouse.move(to.x + to.width / 2, to.y + (to.height / 24) * 14);
  await page.mouse.up();
  await expect(box(page, "ropes")).toBeVisible();
  await expect.poll(() => titled(app, "ropes")).toMatchObject({ start: `${on(1)}T14:00`, length: 3600 });
  await shelf.getByRole("listitem").filter({ hasText: "blankets" }).getByRole("button").click();
  await expect(notice(page)).toContainText("Time for blankets: ");
  await expect.poll(() => titled(app, "blankets")).toMatchObject({ length: 5400 });

  await page.keyboard.press("f");
  const proposal = page.getByRole("region", { name: "Proposal" });
  await expect(proposal).toContainText("Time for 1 task");
  await expect(proposal.getByRole("list", { name: "What cannot be in time" })).toContainText("gas cannot be in time");
  expect(await titled(app, "gas")).toBeUndefined();
  await page.keyboard.press("Enter");
  await expect.poll(() => titled(app, "gas")).toMatchObject({ length: 1800 });
  await page.keyboard.press("f");
  await expect(proposal).toContainText("Every task has its time already.");
  await page.keyboard.press("Escape");
  for (let i = 0; i < 3; i++) await page.keyboard.press("u");
  await expect.poll(() => eventsOf(app)).toEqual([]);
});

test("time for mail opens its batch as a pass", async ({ page, app }) => {
  await openAgenda(page, app);
  await page.keyboard.press("ArrowRight");
  await page.getByRole("button", { name: "Time for mail" }).click();
  await expect(box(page, "Mail").first()).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(`${app.address}/`);
  await expect(page.getByTestId("pass-counts")).toBeVisible();
});

test("a calendar goes out as a file and comes in again; what is broken is said by its line", async ({ page, app }) => {
  await openAgenda(page, app);
  await page.getByRole("button", { name: "calendars" }).click();
  await page.getByRole("button", { name: "more" }).click();
  const file = [
    "BEGIN:VCALENDAR",
    "BEGIN:VEVENT",
    "UID:1@hut.example",
    `DTSTART:${monday().replaceAll("-", "")}T100000Z`,
    "SUMMARY:Stove",
    "END:VEVENT",
    "BEGIN:VEVENT",
    "UID:2@hut.example",
    "DTSTART:some day",
    "END:VEVENT",
    "END:VCALENDAR",
  ].join("\r\n");
  await page
    .getByLabel("Calendar file")
    .setInputFiles({ name: "huts.ics", mimeType: "text/calendar", buffer: Buffer.from(file) });
  await expect(page.getByRole("list", { name: "What could not be read" })).toContainText("line 9");
  await expect.poll(() => titled(app, "Stove")).toBeDefined();
  await page.getByRole("button", { name: "Give it an address" }).click();
  const address = await page.getByLabel("Address").inputValue();
  const read = await page.request.get(address);
  expect(read.headers()["content-type"]).toContain("text/calendar");
  expect(await read.text()).toContain("SUMMARY:Stove");
  await page.getByRole("button", { name: "Take the address away" }).click();
  await expect(page.getByLabel("Address")).toHaveCount(0);
  expect((await page.request.get(address)).status()).toBe(404);
});

test("what is next and what is due stand over the bench; a reminder is said once, also over a reload", async ({
  page,
  app,
}) => {
  const post = (path: string, data: object) => page.request.post(`${app.address}/api/v1${path}`, { data });
  await page.goto(app.address);
  await expect(page.getByTestId("count")).toBeVisible();
  await expect(page.getByRole("complementary", { name: "Agenda" })).toHaveCount(0);
  const soon = new Date(Date.now() + 10 * 60_000);
  await post("/events", {
    title: "Dentist",
    start: soon.toISOString().slice(0, 16),
    length: 1800,
    zone: "UTC",
    remind: 30,
  });
  await post("/tasks", { title: "ropes", due: new Date(Date.now() - 3_600_000).toISOString() });
  const strip = page.getByRole("complementary", { name: "Agenda" });
  await expect(strip).toContainText(/Dentist/);
  await expect(strip).toContainText("1 task overdue");
  await expect(notice(page)).toContainText(/Dentist: in \d+ min\./);
  await strip.getByRole("button").click();
  await expect(strip).not.toContainText("Dentist");
  await page.reload();
  await expect(strip).toBeVisible();
  await expect(strip).not.toContainText("Dentist");
  await page.keyboard.press("j");
  await expect(notice(page)).not.toContainText("Dentist");
});

test("an invitation shows its clash, is accepted by one key, and the answer goes out", async ({ page, app }) => {
  const post = (path: string, data: object) => page.request.post(`${app.address}/api/v1${path}`, { data });
  await page.request.patch(`${app.address}/api/v1/settings`, { data: { holdSeconds: 0 } });
  const day = monday().replaceAll("-", "");
  await post("/events", { title: "Stove", start: `${monday()}T10:30`, length: 3600, zone: "UTC" });
  const mail = [
    "From - Mon Nov 02 10:00:00 2026",
    "From: Ines <ines@ridge.example>",
    "To: bookings@larchhuts.example",
    "Subject: Round of the huts",
    `Date: ${new Date().toUTCString()}`,
    "Message-ID: <round@ridge.example>",
    "MIME-Version: 1.0",
    "Content-Type: text/calendar; method=REQUEST; charset=utf-8",
    "",
    "BEGIN:VCALENDAR",
    "METHOD:REQUEST",
    "BEGIN:VEVENT",
    "UID:round@ridge.example",
    `DTSTART:${day}T100000Z`,
    "DURATION:PT1H",
    "SUMMARY:Round of the huts",
    "ORGANIZER:mailto:ines@ridge.example",
    "ATTENDEE:mailto:bookings@larchhuts.example",
    "END:VEVENT",
    "END:VCALENDAR",
    "",
  ].join("\n");
  await app.fetch(`/import?folder=Inbox`, { method: "POST", body: mail });
  await page.goto(app.address);
  await expect(page.getByRole("option", { name: /Round of the huts/ })).toBeVisible();
  await page.keyboard.press("Home");
  await expect(page.locator("[data-focused]")).toContainText("Round of the huts");
  const card = page.getByRole("region", { name: "Invitation" });
  await expect(card).toContainText("ines@ridge.example asks you to");
  await expect(card).toContainText("At the same time: Stove");
  await page.keyboard.press("Shift+Digit1");
  await expect(card).toContainText("answered: accepted");
  await expect.poll(() => titled(app, "Round of the huts")).toMatchObject({ start: `${monday()}T10:00` });
  await expect.poll(async () => (await app.get<{ received: number }>("/simulator")).received).toBe(1);
  await expect.poll(() => app.count("folder=Sent & subject~accepted")).toBe(1);
});

test("axe finds nothing on the week, the month, a proposal and the calendars, by day and by night; hours are drawn", async ({
  page,
  app,
}) => {
  const post = (path: string, data: object) => page.request.post(`${app.address}/api/v1${path}`, { data });
  await post("/events", { title: "Round", start: `${monday(0)}T10:00`, length: 3600, rule: "FREQ=DAILY" });
  await post("/events", { title: "Closed", start: on(1, 0), length: 172_800, busy: false });
  await post("/tasks", { title: "ropes", due: `${on(-30)}T10:00:00Z` });
  await openAgenda(page, app);
  await page.getByRole("button", { name: "calendars" }).click();
  await page.getByRole("button", { name: "more" }).click();
  for (const theme of ["By night", "By day"]) {
    await axe(page, "week");
    await page.keyboard.press("3");
    await axe(page, "month");
    await page.keyboard.press("1");
    await page.keyboard.press("f");
    await expect(page.getByRole("region", { name: "Proposal" })).toContainText("ropes");
    await axe(page, "proposal");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: theme }).click();
  }
  await page.getByRole("button", { name: "Working hours" }).click();
  await axe(page, "working hours");
  const hours = async () =>
    (await app.get<{ settings: { workHours: { day: number; from: number }[] } }>("/home")).settings.workHours;
  // Monday from eight to half past.
  await page.locator('[data-part="16"]').click();
  await expect.poll(async () => (await hours())[0]).toEqual({ day: 0, from: 480, to: 510 });
  await page.keyboard.press("Escape");
  await page.keyboard.press("u");
  await expect.poll(async () => (await hours())[0]).toMatchObject({ from: 540 });
});
