import postgres from "postgres";
import { expect, focusedId, notice, openBench, test } from "./app";

/** A server that is there and can store nothing, and clocks that are apart. */

test("a disk that is full is said in words; what is decided meanwhile waits, and is done once, in order", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const sql = postgres(app.database, { max: 1, onnotice: () => {} });
  await sql.unsafe(`create function no_room() returns trigger language plpgsql as
    $$ begin raise 'could not extend file "base/1/2": No space left on device' using errcode = '53100'; end $$`);
  await sql.unsafe("create trigger no_room before insert on ledger for each row execute function no_room()");
  const before = await app.count("folder=Archive");
  const ids: (string | null)[] = [];
  for (let n = 0; n < 3; n++) {
    ids.push(await focusedId(page));
    await page.keyboard.press("f");
    await expect.poll(() => focusedId(page)).not.toBe(ids[n]);
  }
  const bar = page.getByTestId("away");
  await expect(bar).toContainText("Nothing can be stored");
  await expect(bar).toContainText("The server's disk is full");
  await expect(page.locator("main").getByText("not stored, 3 waiting")).toBeVisible();
  expect(await app.count("folder=Archive")).toBe(before);
  // It is waited for over a reload too.
  await page.reload();
  await sql.unsafe("drop trigger no_room on ledger; drop function no_room()");
  await sql.end();
  await expect.poll(() => app.count("folder=Archive")).toBe(before + 3);
  await expect(bar).toBeHidden();
  const entries = await app.get<{ kind: string; messages: number }[]>("/ledger?limit=10");
  expect(entries.filter(({ kind }) => kind === "run").length).toBe(3);
});

test("a browser whose clock is an hour ahead takes back what was done last, not what seems to be", async ({
  page,
  app,
}) => {
  await page.addInitScript(() => {
    const real = Date;
    const ahead = 3_600_000;
    globalThis.Date = class extends real {
      constructor(...given: [] | [number]) {
        super(...((given.length === 0 ? [real.now() + ahead] : given) as [number]));
      }
      static override now = () => real.now() + ahead;
    } as DateConstructor;
  });
  await page.goto(`${app.address}/places`);
  await page.getByLabel("Path of Weather").fill("Storms");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("U takes it back");
  await page
    .getByRole("navigation")
    .getByRole("button", { name: /^Inbox/ })
    .click();
  await expect(page.locator("[data-place]").first()).toBeVisible();
  const [inbox, folders] = [await app.count("folder=Inbox"), async () => app.get<{ path: string }[]>("/folders")];
  await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - 1);
  await expect(page.getByTestId("ledger").locator("li").first()).toContainText("Archive");
  await page.getByRole("navigation").getByRole("link", { name: "Places" }).click();
  await expect(page.getByLabel("Path of Storms")).toBeVisible();
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox);
  expect((await folders()).map(({ path }) => path)).toContain("Storms");
  await page.keyboard.press("u");
  await expect.poll(async () => (await folders()).map(({ path }) => path)).toContain("Weather");
});
