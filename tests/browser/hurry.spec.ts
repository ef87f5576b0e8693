import type { Page } from "@playwright/test";
import { expect, focusedId, openBench, test, type App } from "./app";

/** Keys that are pressed before what they are meant for is there. */

// What a page asks for is asked of the network, where it can be held up.
test.use({ serviceWorkers: "block" });

const folderOf = async (app: App, id: number) => (await app.get<{ folder: string }>(`/messages/${id}`)).folder;
const text = (page: Page) => page.getByRole("region", { name: "Composer" }).getByRole("textbox", { name: "Text" });

/** What is asked for from now on comes only once it is let go. @returns lets it go */
async function holdUp(page: Page, what: RegExp): Promise<() => void> {
  let release: () => void = () => {};
  const released = new Promise<void>((resolve) => (release = resolve));
  await page.route(what, async (route) => {
    await released;
    await route.continue().catch(() => undefined);
  });
  return release;
}

test("a letter is written and sent before its composer has come, and what follows decides about mail", async ({
  page,
  app,
}) => {
  await page.goto(app.address);
  await expect(page.locator("[data-focused]")).toBeVisible();
  const release = await holdUp(page, /\/_next\/static\/chunks\//);
  const answered = Number(await focusedId(page));
  await page.keyboard.press("r");
  await page.keyboard.type("Six bets");
  for (let i = 0; i < 2; i++) await page.keyboard.press("Backspace");
  await page.keyboard.type("ds are free.");
  await page.keyboard.press("Enter");
  await page.keyboard.type("See you, frr!");
  await page.keyboard.press("Control+Enter");
  await page.keyboard.press("f");
  await page.keyboard.press("r");
  await page.keyboard.type("And eggs.");
  const archived = await app.count("folder=Archive");
  expect(await app.count("folder=Outbox")).toBe(0);
  release();
  // The second letter is open, with what was typed into it; the message that was gone on to is archived.
  await expect(text(page)).toContainText("And eggs.");
  await expect.poll(() => app.count("folder=Archive")).toBe(archived + 1);
  expect(await folderOf(app, answered)).toBe("Inbox");
  await expect.poll(() => app.count('(folder=Sent | folder=Outbox) & "Six beds are free. See you"')).toBe(1);
  await page.keyboard.press("Escape");
  await expect.poll(() => app.count('folder=Drafts & "And eggs"')).toBe(1);
});

test("a letter that is left before its composer has come is none, and keys decide about mail again", async ({
  page,
  app,
}) => {
  await page.goto(app.address);
  await expect(page.locator("[data-focused]")).toBeVisible();
  await holdUp(page, /\/_next\/static\/chunks\//);
  const [archived, drafts] = [await app.count("folder=Archive"), await app.count("folder=Drafts")];
  await page.keyboard.press("n");
  await page.keyboard.press("Escape");
  await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Archive")).toBe(archived + 1);
  await expect.poll(() => app.count("folder=Drafts")).toBe(drafts);
});

test("keys for a screen that is still on its way are that screen's, and never those of the one that is left", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const [trash, drafts] = [await app.count("folder=Trash"), await app.count("folder=Drafts")];
  const goTo = async (name: string) => {
    await page.keyboard.press(";");
    await page.keyboard.type(name);
    await page.keyboard.press("Enter");
  };
  const release = await holdUp(page, /[?&]_rsc=/);
  await goTo("tasks");
  await page.keyboard.press("n");
  await page.keyboard.type("dry the roped");
  await page.keyboard.press("Backspace");
  await page.keyboard.type("s");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  expect(new URL(page.url()).pathname).toBe("/");
  const titles = async () => (await app.get<{ title: string }[]>("/tasks")).map(({ title }) => title);
  expect(await titles()).not.toContain("dry the ropes");
  release();
  await expect(page).toHaveURL(/\/tasks$/);
  await expect.poll(titles).toContain("dry the ropes");
  expect(await app.count("folder=Trash")).toBe(trash);
  expect(await app.count("folder=Drafts")).toBe(drafts);

  // And back: the bench has them, although it is not drawn yet.
  await page.unroute(/[?&]_rsc=/);
  const again = await holdUp(page, /[?&]_rsc=/);
  await goTo("inbox");
  await page.keyboard.press("d");
  await page.keyboard.press("d");
  again();
  await expect.poll(() => app.count("folder=Trash")).toBe(trash + 2);
});
