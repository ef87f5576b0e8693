import type { Page } from "@playwright/test";
import { expect, focusedId, notice, openBench, test } from "./app";

const CARDS = [
  "BEGIN:VCARD",
  "VERSION:4.0",
  "FN:Ines Reed",
  "EMAIL:ines@reed.example",
  "NOTE:keeps the hut",
  "END:VCARD",
  "BEGIN:VCARD",
  "VERSION:4.0",
  "FN:Without",
  "END:VCARD",
  "",
].join("\r\n");

test("a file of cards is taken in, taken back by one key, and saved again", async ({ page, app }) => {
  await page.goto(`${app.address}/contacts`);
  await expect(page.getByRole("heading", { name: "Contacts" })).toBeVisible();
  const count = async () => (await app.get<unknown[]>("/contacts")).length;
  const before = await count();
  const file = { name: "people.vcf", mimeType: "text/vcard", buffer: Buffer.from(CARDS) };
  await page.getByLabel("File of cards to take in").setInputFiles(file);
  await expect(notice(page)).toContainText("1 contact kept");
  await expect(page.getByRole("alert").filter({ hasText: "left out" })).toContainText("Without (it has no address");
  await page
    .getByRole("list", { name: "All contacts" })
    .getByRole("button", { name: /Ines Reed/ })
    .click();
  await expect(page.getByLabel("Note", { exact: true })).toHaveValue("keeps the hut");
  await expect(page.getByRole("region", { name: "Ines Reed" })).toContainText("You have never written to them");
  const saved = page.waitForEvent("download");
  await page.getByRole("link", { name: "3.0" }).click();
  const text = await (await (await saved).createReadStream()).toArray();
  expect(Buffer.concat(text as Buffer[]).toString()).toContain("FN:Ines Reed\r\nN:Ines Reed;;;;\r\n");
  await page.getByRole("heading", { name: "Contacts" }).click();
  await page.keyboard.press("u");
  await expect.poll(count).toBe(before);
  // A file of something else is refused in words.
  await page.getByLabel("File of cards to take in").setInputFiles({ ...file, buffer: Buffer.from("a,b\n1,2\n") });
  await expect(notice(page)).toContainText("The file holds no cards");
});

test("from a message to who wrote it, and from their page to all their mail", async ({ page, app }) => {
  await openBench(page, app);
  const id = Number(await focusedId(page));
  const { address } = (await app.get<{ from: { address: string } }>(`/messages/${id}`)).from;
  const theirs = await app.count(`from="${address}"`);
  await page.keyboard.press("Enter");
  await page.getByRole("link", { name: address }).first().click();
  const table = page.getByRole("table", { name: "Mail with them by month" });
  await expect(table.getByRole("button", { name: "From them", exact: true })).toHaveText(String(theirs));
  await table.getByRole("button", { name: "From them", exact: true }).click();
  await expect(page.getByTestId("count")).toContainText(`${theirs} message`);
});

const current = (page: Page) => page.getByRole("list", { name: "All contacts" }).locator("[aria-current=true]");

test("by keys somebody is kept, named, noted and removed, and each is taken back", async ({ page, app }) => {
  interface Contact {
    readonly address: string;
    readonly name: string;
    readonly note: string;
  }
  const contacts = () => app.get<Contact[]>("/contacts");
  const kept = async () => (await contacts()).find(({ address }) => address === "odo@larch.example");
  const before = await contacts();
  await page.goto(`${app.address}/contacts`);
  await expect(page.getByRole("heading", { name: "Contacts" })).toBeVisible();
  for (const who of ["odo", "ines"]) {
    await page.keyboard.press("n");
    await page.keyboard.type(`${who}@larch.example`);
    await page.keyboard.press("Enter");
    await expect(current(page)).toContainText(`${who}@larch.example`);
    await page.keyboard.press("Escape");
  }
  await page.keyboard.press("/");
  await page.keyboard.type("larch");
  await page.keyboard.press("Escape");
  await page.keyboard.press("End");
  await expect(current(page)).toContainText("odo@larch.example");
  await page.keyboard.press("Space");
  await page.keyboard.type("Odo Pike");
  await page.keyboard.press("Enter");
  await expect.poll(kept).toMatchObject({ name: "Odo Pike" });
  // What was written is stored by being left, and not lost by looking at somebody else.
  await page.getByLabel("Note", { exact: true }).click();
  await page.keyboard.type("has the key of the barn");
  await page.getByRole("button", { name: /ines@larch/ }).click();
  await expect.poll(kept).toMatchObject({ note: "has the key of the barn" });
  await page.keyboard.press("j");
  await expect(current(page)).toContainText("Odo Pike");
  await expect(page.getByLabel("Note", { exact: true })).toHaveValue("has the key of the barn");
  // The old one comes back before the field is left.
  await page.keyboard.press("Space");
  await page.keyboard.type("xx");
  await page.keyboard.press("Escape");
  await expect(page.getByLabel("Name", { exact: true })).toHaveValue("Odo Pike");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Delete");
  await expect.poll(kept).toBeUndefined();
  await page.keyboard.press("u");
  await expect.poll(kept).toMatchObject({ name: "Odo Pike", note: "has the key of the barn" });
  for (let i = 0; i < 4; i++) await page.keyboard.press("u");
  await expect.poll(contacts).toEqual(before);
});

test("a note that is being written is stored where its page is left", async ({ page, app }) => {
  await page.goto(`${app.address}/contacts`);
  await expect(page.getByRole("heading", { name: "Contacts" })).toBeVisible();
  await page.keyboard.press("n");
  await page.keyboard.type("odo@larch.example");
  await page.keyboard.press("Enter");
  await expect(current(page)).toContainText("odo@larch.example");
  await page.getByLabel("Note", { exact: true }).click();
  await page.keyboard.type("rings at nine");
  await page.goto(`${app.address}/rules`);
  await expect(page.getByRole("heading", { name: "Rules", level: 1 })).toBeVisible();
  await page.goto(`${app.address}/contacts?of=odo@larch.example`);
  await expect(page.getByLabel("Note", { exact: true })).toHaveValue("rings at nine");
});
