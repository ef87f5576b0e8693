import type { Page } from "@playwright/test";
import { counted, expect, focusedId, notice, openBench, test, type App } from "./app";

/** Planning from mail: tasks as a batch, steps that plan, times offered, files let go of; and the weeks in which clocks change. */

interface Event {
  readonly title: string;
  readonly start: string;
  readonly length: number;
  readonly message: number | null;
  readonly task: number | null;
}
const DAY_MS = 86_400_000;
const day = (ms: number): string => new Date(ms).toISOString().slice(0, 10);
const RANGE = `from=${new Date(Date.now() - 400 * DAY_MS).toISOString()}&to=${new Date(Date.now() + 390 * DAY_MS).toISOString()}`;
const eventsOf = (app: App) => app.get<Event[]>(`/events?${RANGE}`);

/** The next last Sunday of a month, which is when clocks change there. @param month from 0 */
function lastSunday(month: number): number {
  for (let year = new Date().getUTCFullYear(); ; year++) {
    const last = new Date(Date.UTC(year, month + 1, 0));
    const sunday = last.getTime() - last.getUTCDay() * DAY_MS;
    if (sunday > Date.now() + 2 * DAY_MS) return sunday;
  }
}
const send = async <T>(app: App, path: string, body: object): Promise<T> =>
  (await (
    await app.fetch(path, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
    })
  ).json()) as T;

/** Letters that have just come in, the last one on top. */
async function bring(app: App, letters: readonly (readonly [subject: string, text: string])[]): Promise<void> {
  const now = Date.now();
  const mbox = letters.map(([subject, text], i) => {
    const date = new Date(now - (letters.length - i) * 60_000).toUTCString();
    return `From ines@larch.example Fri Nov 27 00:00:00 2026\nFrom: Ines Okafor <ines@larch.example>\nTo: desk@huts.example\nDate: ${date}\nMessage-ID: <${i}.${now}@larch.example>\nSubject: ${subject}\n\n${text}\n\n`;
  });
  await app.fetch(`/import?folder=Inbox`, { method: "POST", body: mbox.join("") });
  await expect.poll(() => app.count("subject~zeltplatz & !folder=Outbox")).toBe(letters.length);
}
async function narrow(page: Page, text: string): Promise<void> {
  await page.keyboard.press("/");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
}
async function runBy(page: Page, name: string): Promise<void> {
  await page.keyboard.press("'");
  await page.keyboard.type(name);
  await expect(page.getByRole("option", { name })).toBeVisible();
  await page.keyboard.press("Enter");
}

test("an event is made of what a message says; where it says several days or none, it is asked", async ({
  page,
  app,
}) => {
  const [soon, later] = [day(Date.now() + 20 * DAY_MS), day(Date.now() + 21 * DAY_MS)];
  await bring(app, [
    ["Zeltplatz one", "We would like to see the hut some day."],
    ["Zeltplatz two", `Either ${soon} at 10:00, or ${later} in the afternoon?`],
    ["Zeltplatz three", `We come on ${soon}, 14:30 to 16:00, and bring the key.`],
  ]);
  await send(app, "/macros", { name: "Into the calendar", steps: [{ do: "make event" }, { do: "read" }] });
  await openBench(page, app);
  await narrow(page, "subject~zeltplatz");
  await expect.poll(() => counted(page)).toBe(3);
  await runBy(page, "Into the calendar");
  await expect
    .poll(() => eventsOf(app))
    .toMatchObject([{ title: "Zeltplatz three", start: `${soon}T14:30`, length: 5400 }]);
  await expect(notice(page)).toContainText(/Into the calendar: .*U takes it back/);
  await runBy(page, "Into the calendar");
  const question = page.getByRole("dialog");
  await expect(question).toContainText(`It says ${soon} 10:00, ${later}`);
  await page.keyboard.type(`${later} 15:00`);
  await page.keyboard.press("Enter");
  await expect
    .poll(async () => (await eventsOf(app)).map(({ start }) => start).sort())
    .toEqual([`${soon}T14:30`, `${later}T15:00`]);
  await runBy(page, "Into the calendar");
  await expect(question).toContainText("It says no day");
  await page.keyboard.press("Escape");
  expect(await app.count("subject~zeltplatz unread")).toBe(1);
  await page.keyboard.press("u");
  await page.keyboard.press("u");
  await expect.poll(() => eventsOf(app)).toEqual([]);
  await expect.poll(() => app.count("subject~zeltplatz unread")).toBe(3);
});

test("mail with tasks is a batch: it follows what becomes of the tasks", async ({ page, app }) => {
  await openBench(page, app);
  const id = Number(await focusedId(page));
  await send(app, "/macros", {
    name: "Give it time",
    steps: [
      { do: "make task", title: "Look at the stove", due: "today 23:00", pressing: true },
      { do: "block time", at: "tomorrow 9", minutes: 45 },
    ],
  });
  await narrow(page, "task due<=today");
  await expect(page.getByTestId("count")).toHaveText(/^0/);
  await page.keyboard.press(",");
  await page.keyboard.press(",");
  await expect.poll(() => focusedId(page)).toBe(String(id));
  await runBy(page, "Give it time");
  // The time stands for the task that was made beside it.
  await expect.poll(() => eventsOf(app)).toMatchObject([{ message: id, length: 2700 }]);
  const [task] = await app.get<{ id: number; title: string; message: number; pressing: boolean }[]>("/tasks");
  expect(task).toMatchObject({ title: "Look at the stove", message: id, pressing: true });
  expect((await eventsOf(app))[0]!.task).toBe(task!.id);
  await narrow(page, "task due<=today");
  await expect.poll(() => counted(page)).toBe(1);
  await expect.poll(() => focusedId(page)).toBe(String(id));
  expect(await app.count("task & due<=today")).toBe(1);
  // Done elsewhere, it is in the list no more.
  await app.fetch(`/tasks/${task!.id}`, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ done: true }),
  });
  await expect(page.getByTestId("count")).toHaveText(/^0/);
});

test("three free times of one's calendar stand in a letter by three keys", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("n");
  const composer = page.getByRole("region", { name: "Composer" });
  await expect(composer).toHaveAttribute("data-ready", "true");
  await page.keyboard.type("ines@larch.example");
  await page.keyboard.press("Enter");
  const times = () => app.get<{ start: string; text: string }[]>("/agenda/offers?minutes=60");
  expect(await times()).toHaveLength(3);
  // The next days are full.
  const event = { title: "Away", start: day(Date.now() + DAY_MS), length: 7 * 86_400 };
  await send(app, "/events", { ...event, busy: true });
  const text = composer.getByRole("textbox", { name: "Text" });
  await text.click();
  await page.keyboard.press("Control+Shift+E");
  const picker = page.getByRole("dialog", { name: "Offer three times of" });
  await expect(picker.getByRole("option", { name: /^An hour / }).first()).toContainText(/\d\d:\d\d/);
  await page.keyboard.press("2");
  await expect(picker).toHaveCount(0);
  const offered = await text.getByRole("listitem").allTextContents();
  const free = await times();
  expect(offered).toEqual(free.map((one) => one.text));
  for (const { start } of free) expect(Date.parse(start)).toBeGreaterThan(Date.now() + 7 * DAY_MS);
  for (const one of offered)
    expect(one).toMatch(/^(Mon|Tues|Wednes|Thurs|Fri)day \d+ \w+( \d{4})?, 09:00 to 10:00, Zurich time$/);
});

test("a calendar let go of anywhere is taken in, with what could not be read; another file leaves the app alone", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const drop = async (name: string, type: string, text: string) => {
    const data = await page.evaluateHandle(
      ([name, type, text]) => {
        const transfer = new DataTransfer();
        transfer.items.add(new File([text!], name!, { type: type! }));
        return transfer;
      },
      [name, type, text],
    );
    await page.locator("main").dispatchEvent("dragover", { dataTransfer: data });
    await expect(page.getByText("Let go of a calendar")).toBeVisible();
    await page.locator("main").dispatchEvent("drop", { dataTransfer: data });
    await expect(page.getByText("Let go of a calendar")).toHaveCount(0);
  };
  const start = day(Date.now() + 3 * DAY_MS).replaceAll("-", "");
  const event = (uid: string, date: string) =>
    `BEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:20261101T080000Z\r\nDTSTART:${date}T090000Z\r\nSUMMARY:Round ${uid}\r\nEND:VEVENT\r\n`;
  const todo = "BEGIN:VTODO\r\nUID:t\r\nDTSTAMP:20261101T080000Z\r\nSUMMARY:Ropes\r\nEND:VTODO\r\n";
  await drop(
    "huts.ics",
    "text/calendar",
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n${event("a", start)}${event("b", "2026139")}${todo}END:VCALENDAR\r\n`,
  );
  await expect.poll(async () => (await eventsOf(app)).map(({ title }) => title)).toEqual(["Round a"]);
  await expect(page.getByRole("list", { name: "What could not be read" })).toContainText(/line 13/);
  await page.getByRole("button", { name: "Seen" }).click();
  await expect(page.getByRole("list", { name: "What could not be read" })).toHaveCount(0);
  const tasks = await page.request.get(`${app.address}/api/v1/tasks/ics`);
  expect(tasks.headers()["content-type"]).toContain("text/calendar");
  expect(await tasks.text()).toMatch(/^BEGIN:VTODO\r\n[\s\S]*SUMMARY:Ropes\r\n/m);
  await drop("plan.pdf", "application/pdf", "%PDF");
  await expect(notice(page)).toContainText("Only calendars");
  await expect(page).toHaveURL(`${app.address}/`);
  await page.keyboard.press("u");
  await expect.poll(() => eventsOf(app)).toEqual([]);
});

for (const [name, month, hours] of [
  ["forward", 2, 23],
  ["back", 9, 25],
] as const)
  test(`the week in which clocks go ${name}: what is at ten stays at ten, and moves by the wall's clock`, async ({
    page,
    app,
  }) => {
    const sunday = lastSunday(month);
    const [saturday, monday] = [day(sunday - DAY_MS), day(sunday - 6 * DAY_MS)];
    await page.goto(`${app.address}/agenda`);
    await expect(page.locator("main[data-ready]")).toBeVisible();
    await page.keyboard.press("n");
    await page.keyboard.insertText(`round ${monday} 10:00 1h every day`);
    await page.keyboard.press("Enter");
    await page.keyboard.press("Escape");
    const round = page.locator("[data-event]:not([aria-hidden] *)").filter({ hasText: "round" });
    await expect(round).toHaveCount(7);
    // Beside one another at one height, and an hour of the screen long.
    // Measured in one moment: once they are stored, others stand in their places.
    const shapes = () =>
      round.evaluateAll((all) => {
        const boxes = all.map((one) => one.getBoundingClientRect());
        return [...new Set(boxes.map(({ y, height }) => `${Math.round(y)} ${Math.round(height)}`))];
      });
    await expect.poll(shapes).toHaveLength(1);
    const [from, to] = [new Date(sunday - 2 * DAY_MS).toISOString(), new Date(sunday + DAY_MS).toISOString()];
    const instants = async () =>
      (await app.get<{ occurrences: { start: string; title: string }[] }>(`/agenda?from=${from}&to=${to}`)).occurrences
        .filter(({ title }) => title === "round")
        .map(({ start }) => Date.parse(start));
    await expect.poll(async () => (await instants()).length).toBe(3);
    const [, second, third] = await instants();
    // From ten to ten the day of the change is shorter, or longer.
    expect((third! - second!) / 3_600_000).toBe(hours);
    // One more on Saturday: a day on is the same hour of the clock, whatever lies between.
    await page.keyboard.press("n");
    await page.keyboard.insertText(`key ${saturday} 1:30 3h`);
    await page.keyboard.press("Enter");
    await page.keyboard.press("Escape");
    const key = async () => (await eventsOf(app)).find(({ title }) => title === "key");
    await expect.poll(key).toMatchObject({ start: `${saturday}T01:30`, length: 10_800 });
    await page.keyboard.press("Shift+ArrowRight");
    await expect.poll(key).toMatchObject({ start: `${day(sunday)}T01:30`, length: 10_800 });
    // Three hours from half past one end at half past five where one is left out, at half past three where one is twice.
    const column = page.locator(`[data-day="${day(sunday)}"]`);
    const end = () =>
      column.evaluate((outer) => {
        const card = [...outer.querySelectorAll("[data-event]")].find((one) => one.textContent.includes("key"))!;
        const [of, inner] = [outer.getBoundingClientRect(), card.getBoundingClientRect()];
        return ((inner.bottom - of.top) / of.height) * 24;
      });
    await expect.poll(end).toBeCloseTo(hours === 23 ? 5.5 : 3.5, 1);
    await page.keyboard.press("u");
    await expect.poll(key).toMatchObject({ start: `${saturday}T01:30` });
  });
