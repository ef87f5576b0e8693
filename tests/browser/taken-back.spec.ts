import type { Page } from "@playwright/test";
import { expect, focusedId, notice, openBench, test, type App } from "./app";

/** What is made, changed and removed beside mail is taken back by the same key, as it was. */

const undo = async (page: Page, times = 1) => {
  for (let i = 0; i < times; i++) await page.keyboard.press("u");
};
/** Out of any field. */
const leave = (page: Page) => page.locator("h1").click();

test("markers and whom one writes as come back as they were, with their places in the order", async ({ page, app }) => {
  const markers = () => app.get<{ letter: string }[]>("/markers");
  const identities = () => app.get<{ address: string; signature: string }[]>("/identities");
  const [marks, people] = [await markers(), await identities()];
  await page.goto(`${app.address}/places`);
  await page.getByRole("button", { name: `Remove the marker ${marks[1]!.letter}`, exact: true }).click();
  await expect.poll(async () => (await markers()).length).toBe(marks.length - 1);
  await page.getByLabel("Letter of a new marker").fill("q");
  await page.getByLabel("Meaning of a new marker").fill("in a queue");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await markers()).map(({ letter }) => letter)).toContain("Q");
  await leave(page);
  await undo(page, 2);
  await expect.poll(markers).toEqual(marks);
  // A set of several is one thing that was done.
  await page.getByRole("button", { name: "how far it is" }).click();
  await expect.poll(async () => (await markers()).length).toBe(8);
  await undo(page);
  await expect.poll(markers).toEqual(marks);

  await page.getByLabel("Another address of yours").fill("night@larchhuts.example");
  await page.keyboard.press("Enter");
  const line = page.getByRole("listitem").filter({ hasText: "night@larchhuts.example" });
  await line.getByRole("button", { name: "make usual" }).click();
  await expect.poll(async () => (await identities())[0]!.address).toBe("night@larchhuts.example");
  await line.getByRole("button", { name: "change" }).click();
  await line.getByLabel("Signature").fill("The night desk");
  await line.getByLabel("Address").fill("no address");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("cannot be an address");
  await expect(line.getByLabel("Address")).toHaveValue("no address");
  await line.getByLabel("Address").click();
  await page.keyboard.press("Escape");
  await expect(line.getByLabel("Address")).toHaveValue("night@larchhuts.example");
  await expect.poll(async () => (await identities())[0]!.signature).toBe("The night desk");
  const changed = await identities();
  await line.getByRole("button", { name: "remove" }).click();
  await expect(line).toHaveCount(0);
  await expect.poll(async () => (await identities()).length).toBe(people.length);
  await leave(page);
  await undo(page);
  await expect(line).toContainText("the usual one");
  await expect.poll(identities).toEqual(changed);
  await undo(page, 3);
  await expect.poll(identities).toEqual(people);
});

test("a group of people is named anew, and comes back with all who are in it", async ({ page, app }) => {
  const groups = () => app.get<{ name: string; members: string[] }[]>("/groups");
  const before = await groups();
  await page.goto(`${app.address}/contacts`);
  await page.getByLabel("Name of a new group").fill("Wardens");
  await page.keyboard.press("Enter");
  const list = page.getByRole("region", { name: "Groups" });
  await list.getByRole("button", { name: /^Wardens/ }).click();
  await list.getByRole("combobox").fill("ines@larch.example");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await groups()).find(({ name }) => name === "Wardens")?.members).toHaveLength(1);
  await list.getByLabel("Name of the group Wardens").fill("Keepers");
  await page.keyboard.press("Enter");
  await list.getByRole("button", { name: "Remove the group Keepers" }).click();
  await expect.poll(groups).toEqual(before);
  await leave(page);
  await undo(page);
  await expect
    .poll(async () => (await groups()).find(({ name }) => name === "Keepers")?.members)
    .toEqual(["ines@larch.example"]);
  await undo(page, 3);
  await expect.poll(groups).toEqual(before);
});

/** A batch that the rack has, by its name. */
const inRack = (page: Page, name: string) =>
  page.getByRole("navigation", { name: "Places" }).getByRole("button", { name: new RegExp(`^${name}`) });
const names = async (app: App, path: string) => (await app.get<{ name: string }[]>(path)).map(({ name }) => name);

test("on the bench U takes back mail and what was done to batches there in their order, and nothing from elsewhere", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/places`);
  const labels = page.getByRole("list", { name: "All labels" }).getByRole("textbox");
  const label = await labels.first().inputValue();
  await labels.first().fill("Set apart");
  await page.keyboard.press("Enter");
  await expect.poll(() => names(app, "/labels")).toContain("Set apart");
  await page.keyboard.press(";");
  await page.keyboard.type("inbox");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-place]").first()).toBeVisible();
  const batches = await names(app, "/batches");
  const inbox = await app.count("folder=Inbox");
  await page.keyboard.press("f");
  await page.keyboard.press("Control+s");
  await page.keyboard.type("Set aside");
  await page.keyboard.press("Enter");
  await expect(inRack(page, "Set aside")).toBeVisible();
  await page.keyboard.press("f");
  await page.keyboard.press("Control+s");
  await page.getByRole("dialog", { name: "Batch Set aside" }).getByRole("button", { name: "Delete" }).click();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await expect.poll(() => names(app, "/batches")).toEqual(batches);
  await undo(page);
  await expect(inRack(page, "Set aside")).toBeVisible();
  expect(await app.count("folder=Inbox")).toBe(inbox - 2);
  await undo(page);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  await undo(page, 2);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  await expect.poll(() => names(app, "/batches")).toEqual(batches);
  await undo(page);
  await expect(notice(page)).toHaveText("There is nothing to take back.");
  expect(await names(app, "/labels")).toContain("Set apart");
  // All of it again, in the order it was done.
  for (let i = 0; i < 3; i++) await page.keyboard.press("Shift+u");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 2);
  await expect(inRack(page, "Set aside")).toBeVisible();
  await undo(page);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  await expect(inRack(page, "Set aside")).toBeVisible();
  // What is done to mail after that begins anew: nothing that was taken back before is done again.
  await undo(page);
  await expect(inRack(page, "Set aside")).toHaveCount(0);
  await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 2);
  await page.keyboard.press("Shift+u");
  await expect(notice(page)).toHaveText("There is nothing to do again.");
  await expect.poll(() => names(app, "/batches")).toEqual(batches);
  expect(label).not.toBe("Set apart");
});

test.describe("by thumb", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });

  test("what was done says how it is taken back without keys", async ({ page, app }) => {
    const before = await names(app, "/templates");
    await page.goto(`${app.address}/templates`);
    await page.getByRole("button", { name: /^New template/ }).tap();
    await expect.poll(async () => (await names(app, "/templates")).length).toBe(before.length + 1);
    await page.getByRole("button", { name: "Take back" }).tap();
    await expect.poll(() => names(app, "/templates")).toEqual(before);
  });

  test("all of what was done is to be read, however full the top of the screen is", async ({ page, app }) => {
    const address = "keeper.of.the.upper.larch.hut@larch.example";
    await page.goto(`${app.address}/contacts`);
    await page.getByLabel("Address to keep").fill(address);
    await page.keyboard.press("Enter");
    await expect(notice(page)).toContainText(`${address} is kept.`);
    await expect(notice(page)).toBeVisible();
    const cut = await notice(page).evaluate((said) => said.scrollWidth - said.clientWidth);
    expect(cut).toBe(0);
    await page.getByRole("button", { name: "Take back" }).tap();
    await expect(page.getByRole("list", { name: "All contacts" })).not.toContainText(address);
  });
});

test("a folder and a label that were made are taken back while nothing is in them, and made again as they were", async ({
  page,
  app,
}) => {
  const folders = async () => (await app.get<{ path: string }[]>("/folders")).map(({ path }) => path);
  const labels = async () => (await app.get<{ name: string }[]>("/labels")).map(({ name }) => name);
  await page.goto(`${app.address}/places`);
  await page.getByLabel("Path of a new folder").fill("Rooms");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("The folder Rooms is made. U takes it back.");
  await expect.poll(folders).toContain("Rooms");
  await page.getByLabel("Name of a new label").fill("Rope");
  await page.keyboard.press("Enter");
  await expect.poll(labels).toContain("Rope");
  await page.getByLabel("Path of Rooms").fill("Chambers");
  await page.keyboard.press("Enter");
  await expect.poll(folders).toContain("Chambers");
  await leave(page);
  await undo(page, 3);
  await expect.poll(labels).not.toContain("Rope");
  await expect.poll(folders).not.toContain("Rooms");
  expect(await folders()).not.toContain("Chambers");
  await expect(page.getByLabel("Path of Rooms")).toHaveCount(0);
  for (let i = 0; i < 3; i++) await page.keyboard.press("Shift+U");
  await expect.poll(folders).toContain("Chambers");
  await expect.poll(labels).toContain("Rope");
});

test("a folder that was made on the way to filing a message goes too, once the message is back", async ({
  page,
  app,
}) => {
  const paths = async () => (await app.get<{ path: string }[]>("/folders")).map(({ path }) => path);
  await openBench(page, app);
  const [before, inbox] = [await paths(), await app.count("folder=Inbox")];
  const id = await focusedId(page);
  await page.keyboard.press("a");
  await page.keyboard.type("Rope makers");
  await page.keyboard.press("Enter");
  await expect.poll(() => app.count('folder="Rope makers"')).toBe(1);
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await undo(page);
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  expect(await paths()).toContain("Rope makers");
  await undo(page);
  await expect(notice(page)).toContainText("Took back: The folder Rope makers is made");
  await expect.poll(paths).toEqual(before);
  // Both again, in their order.
  await page.keyboard.press("Shift+U");
  await expect.poll(paths).toContain("Rope makers");
  await page.keyboard.press("Shift+U");
  await expect.poll(async () => (await app.get<{ folder: string }>(`/messages/${id}`)).folder).toBe("Rope makers");
});

test("what counts as read by being opened is taken back, also where the window has just read what was done anew", async ({
  page,
  app,
}) => {
  const send = (path: string, body: object, method = "POST") =>
    app.fetch(path, { method, headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
  const unread = () => app.count("folder=Inbox & !deferred & unread");
  await send("/settings", { readAfter: 0 }, "PATCH");
  await openBench(page, app);
  await page.keyboard.press("/");
  await page.keyboard.type("unread");
  await page.keyboard.press("Enter");
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  const before = await unread();
  await page.keyboard.press("l");
  await expect.poll(unread).toBe(before - 1);
  // Another window of the same person does something and takes it back: this one reads the list of all that was done.
  const [other] = (await app.get<{ rows: { id: number }[] }>("/messages?narrow=folder%3DBookings&limit=1")).rows;
  const run = crypto.randomUUID();
  const listed = page.waitForResponse((answer) => answer.url().includes("/ledger?limit="));
  await send("/runs", {
    id: run,
    macro: { name: "Pin", steps: [{ do: "pin" }] },
    target: { ids: [other!.id] },
  });
  await send(`/ledger/${run}/undo`, { id: crypto.randomUUID() });
  await (await listed).finished();
  await page.keyboard.press("u");
  await expect(notice(page)).toContainText("Took back: Read");
  await expect.poll(unread).toBe(before);
  expect(await app.count("folder=Trash")).toBe(1);
  await page.keyboard.press("Shift+U");
  await expect.poll(unread).toBe(before - 1);
  // Another key, and undo means what was decided.
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Trash")).toBe(0);
});
