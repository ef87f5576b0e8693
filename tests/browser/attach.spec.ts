import type { Page } from "@playwright/test";
import { expect, notice, openBench, test, type App } from "./app";

/** Files that go along: a letter never goes, and is never thrown away, without one that is still on its way. */

const composer = (page: Page) => page.getByRole("region", { name: "Composer" });
const file = (name: string) => ({ name, mimeType: "text/plain", buffer: Buffer.from(`this is ${name}`) });
const attach = (page: Page, ...names: string[]) =>
  composer(page).getByLabel("Files to attach").setInputFiles(names.map(file));

/** The names of the files of all drafts. */
const filesOfDrafts = async (app: App) =>
  (await app.get<{ files: { name: string }[] }[]>("/drafts")).map(({ files }) => files.map(({ name }) => name));

/** Holds what is uploaded until it is let go, each by itself. @param refused whether there is no room for it then */
async function slowly(page: Page, refused = false) {
  const held: (() => void)[] = [];
  await page.route(/\/drafts\/\d+\/files\?name=/, async (route) => {
    await new Promise<void>((resolve) => held.push(resolve));
    if (!refused) return route.continue();
    await route.fulfill({ status: 507, contentType: "application/problem+json", body: '{"title":"The disk is full"}' });
  });
  return { held: () => held.length, letGo: () => held.shift()!() };
}

/** A new letter; to whom it goes has been written to before. */
async function begin(page: Page, app: App): Promise<void> {
  const kept = { address: "ines@larch.example", name: "Ines Reed" };
  expect((await page.request.post(`${app.address}/api/v1/contacts`, { data: kept })).ok()).toBe(true);
  await openBench(page, app);
  await page.keyboard.press("n");
  await expect(composer(page)).toHaveAttribute("data-ready", "true");
}
async function address(page: Page, subject: string): Promise<void> {
  // A new letter begins with whom it goes to.
  await page.keyboard.type("ines@larch.example,");
  await page.getByLabel("subject").fill(subject);
  await composer(page).getByRole("textbox", { name: "Text" }).click();
  await page.keyboard.type("Here it is.");
}

/** A letter that is sent while its file is held. */
async function sendTooSoon(page: Page, app: App, refused = false) {
  const upload = await slowly(page, refused);
  await begin(page, app);
  await address(page, "The plan");
  await attach(page, "plan.txt");
  await expect.poll(upload.held).toBe(1);
  await page.keyboard.press("Control+Enter");
  await expect(notice(page)).toContainText("It goes as soon as all is attached");
  return upload;
}

test("a letter that is sent while a file is on its way goes with it, and can be held back until then", async ({
  page,
  app,
}) => {
  const upload = await sendTooSoon(page, app);
  await expect(composer(page)).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(notice(page)).toHaveText("It stays here.");
  upload.letGo();
  await expect(composer(page).getByRole("status").filter({ hasText: "Attaching" })).toHaveCount(0);
  await expect(composer(page)).toBeVisible();
  await attach(page, "roof.txt");
  await expect.poll(upload.held).toBe(1);
  await page.keyboard.press("Control+Enter");
  upload.letGo();
  await expect(composer(page)).toHaveCount(0);
  await expect.poll(() => app.count("folder=Outbox & subject~plan & attachment")).toBe(1);
  const [row] = (await app.get<{ rows: { id: number }[] }>(`/messages?narrow=folder=Outbox&order=newest&limit=1`)).rows;
  const { files } = await app.get<{ files: { name: string }[] }>(`/messages/${row!.id}`);
  expect(files.map(({ name }) => name)).toEqual(["plan.txt", "roof.txt"]);
});

test("a letter that is left for another screen before all is attached is not sent behind one's back", async ({
  page,
  app,
}) => {
  const upload = await sendTooSoon(page, app);
  await page.getByRole("link", { name: "Rules", exact: true }).click();
  await expect(notice(page)).toContainText("it is not sent, and lies in Drafts");
  upload.letGo();
  await expect.poll(() => filesOfDrafts(app)).toEqual([["plan.txt"]]);
  expect(await app.count("folder=Outbox")).toBe(0);
});

test("a draft that holds nothing but a file on its way is kept when it is left", async ({ page, app }) => {
  const upload = await slowly(page);
  await begin(page, app);
  await attach(page, "plan.txt");
  await expect.poll(upload.held).toBe(1);
  await page.keyboard.press("Escape");
  await expect(composer(page)).toHaveCount(0);
  upload.letGo();
  await expect.poll(() => filesOfDrafts(app)).toEqual([["plan.txt"]]);
});

test("what cannot be attached says so, and its letter does not go without it", async ({ page, app }) => {
  const upload = await sendTooSoon(page, app, true);
  upload.letGo();
  await expect(composer(page).getByRole("alert").filter({ hasText: "plan.txt is not attached" })).toBeVisible();
  await expect(composer(page)).toBeVisible();
  expect(await app.count("folder=Outbox")).toBe(0);
});

test("what is put in before the server has begun the draft is attached once it has", async ({ page, app }) => {
  await openBench(page, app);
  const held: (() => void)[] = [];
  await page.route(/\/api\/v1\/drafts$/, async (route) => {
    await new Promise<void>((resolve) => held.push(resolve));
    await route.continue();
  });
  await page.keyboard.press("n");
  await expect.poll(() => held.length).toBe(1);
  await attach(page, "plan.txt");
  await expect(composer(page).getByRole("status").filter({ hasText: "Attaching plan.txt" })).toBeVisible();
  held[0]!();
  await expect.poll(() => filesOfDrafts(app)).toEqual([["plan.txt"]]);
});

test("files that come and go at once leave those that are there", async ({ page, app }) => {
  await begin(page, app);
  await attach(page, "one.txt", "two.txt", "three.txt");
  await expect(composer(page).getByRole("button", { name: /^Take .* out$/ })).toHaveCount(3);
  // Both are asked for before the first is answered.
  const held: (() => void)[] = [];
  await page.route(/\/drafts\/\d+\/files\/\d+$/, async (route) => {
    await new Promise<void>((resolve) => held.push(resolve));
    await route.continue();
  });
  await composer(page).getByRole("button", { name: "Take one.txt out" }).click();
  await composer(page).getByRole("button", { name: "Take two.txt out" }).click();
  await expect.poll(() => held.length).toBe(2);
  for (const letGo of held.reverse()) letGo();
  const draft = await composer(page).getAttribute("data-draft");
  const names = async () =>
    (await app.get<{ files: { name: string }[] }>(`/drafts/${draft}`)).files.map(({ name }) => name);
  await expect.poll(names).toEqual(["three.txt"]);
  await expect(composer(page).getByRole("button", { name: /^Take .* out$/ })).toHaveCount(1);
  await expect(composer(page)).toContainText("three.txt");
});

test("what is taken out does not go with a letter that is sent at once, and can be put back as it was", async ({
  page,
  app,
}) => {
  await begin(page, app);
  await address(page, "The plan");
  await attach(page, "plan.txt", "wrong.txt");
  const take = (name: string) => composer(page).getByRole("button", { name: `Take ${name} out` });
  await take("plan.txt").click();
  await composer(page).getByRole("button", { name: "Put plan.txt back" }).click();
  await expect(take("plan.txt")).toBeVisible();
  await expect(composer(page).getByRole("button", { name: "Put plan.txt back" })).toHaveCount(0);
  const held: (() => void)[] = [];
  await page.route(/\/drafts\/\d+\/files\/\d+$/, async (route) => {
    await new Promise<void>((resolve) => held.push(resolve));
    await route.continue();
  });
  await take("wrong.txt").click();
  await expect.poll(() => held.length).toBe(1);
  await page.keyboard.press("Control+Enter");
  await expect(notice(page)).toContainText("It goes as soon as all is taken out");
  await expect(composer(page)).toBeVisible();
  held[0]!();
  await expect(composer(page)).toHaveCount(0);
  await expect.poll(() => app.count('folder=Outbox & subject="The plan"')).toBe(1);
  expect(await app.count('subject="The plan" & file~plan')).toBe(1);
  expect(await app.count('subject="The plan" & file~wrong')).toBe(0);
});

test("keys are the letter's where the button that was pressed in it is gone", async ({ page, app }) => {
  await begin(page, app);
  await address(page, "The plan");
  await composer(page).getByLabel("Put a label on it").selectOption("Invoice");
  const off = composer(page).getByRole("button", { name: "Take off the label Invoice" });
  await off.click();
  await expect(off).toHaveCount(0);
  await page.keyboard.press("Control+Enter");
  await expect(composer(page)).toHaveCount(0);
  await expect.poll(() => app.count('folder=Outbox & subject="The plan"')).toBe(1);
});
