import { expect, openBench, test, type App } from "./app";

/** Keys as fast as hands can press them: each lands, in order, on the message it was meant for, and can be taken back. */

interface Entry {
  readonly kind: string;
  readonly state: string;
  readonly about: string;
  readonly macro: { readonly name: string };
}
const ledger = (app: App) => app.get<Entry[]>("/ledger?limit=200");
interface State {
  readonly id: number;
  readonly folder: string;
  readonly read: boolean;
  readonly owed: boolean;
}
const inbox = async (app: App) =>
  (await app.get<{ rows: State[] }>("/messages?narrow=folder%3DInbox&order=newest&limit=60")).rows.map(
    ({ id, read, owed }) => `${id} ${read} ${owed}`,
  );

/** What each key of the usual deck leaves a message in. */
const MEANT = { f: "Archive", d: "Trash", q: "Owe a reply" } as const;
const BURST = Array.from("fdqfqdffdqdfqqfdfqdfqfddqffqdf") as (keyof typeof MEANT)[];

test("thirty macros in a burst all land in order; undo pressed thirty times takes all of it back", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const before = await inbox(app);
  const subjects = new Map<string, string>();
  for (const { id, subject } of (
    await app.get<{ rows: { id: number; subject: string }[] }>("/messages?narrow=folder%3DInbox&order=newest&limit=60")
  ).rows)
    subjects.set(String(id), subject);
  for (const key of BURST) await page.keyboard.press(key);
  const runs = async () => (await ledger(app)).filter(({ kind }) => kind === "run").reverse();
  await expect.poll(async () => (await runs()).length).toBe(30);
  const done = await runs();
  expect(done.map(({ macro }) => macro.name)).toEqual(BURST.map((key) => MEANT[key]));
  // Newest first, one after another: each key is for the next message.
  const order = before.map((row) => subjects.get(row.split(" ")[0]!) || "(no subject)");
  expect(done.map(({ about }) => about)).toEqual(order.slice(0, 30));
  expect(await app.count("folder=Trash")).toBe(BURST.filter((key) => key === "d").length);
  expect(await app.count("owed")).toBe(BURST.filter((key) => key === "q").length);
  for (let i = 0; i < 30; i++) await page.keyboard.press("u");
  await expect.poll(async () => (await runs()).filter(({ state }) => state === "undone").length).toBe(30);
  expect(await inbox(app)).toEqual(before);
  // Each undo took back the last run that stood.
  const undone = (await ledger(app)).filter(({ kind }) => kind === "undo").reverse();
  expect(undone.map(({ about }) => about).length).toBe(30);
  await page.keyboard.press("u");
  await expect(page.getByTestId("notice")).toContainText("nothing to take back");
});

test("a held decision key decides about one message a press, and goes on only where that is allowed", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const total = await app.count("folder=Inbox");
  // What a keyboard sends while a key is held: one press, then repeats.
  const hold = async (key: string, repeats: number) => {
    for (let i = 0; i <= repeats; i++) await page.keyboard.down(key);
    await page.keyboard.up(key);
  };
  await hold("f", 12);
  await hold("d", 12);
  await expect.poll(() => app.count("folder=Inbox")).toBe(total - 2);
  const macros = async () => (await app.get<{ macros: { name: string; settings: object }[] }>("/home")).macros;
  await page.goto(`${app.address}/workshop`);
  await page.locator("[data-pad='KeyF']").click();
  await page.getByText("Settings", { exact: true }).click();
  await page.getByRole("checkbox", { name: "goes on while its key is held" }).click();
  await expect
    .poll(async () => (await macros()).find(({ name }) => name === "Archive")!.settings)
    .toMatchObject({ held: true });
  await openBench(page, app);
  await hold("f", 4);
  await expect.poll(() => app.count("folder=Inbox")).toBe(total - 7);
  await hold("d", 4);
  await expect.poll(() => app.count("folder=Inbox")).toBe(total - 8);
  expect(await app.count("folder=Trash")).toBe(2);
});
