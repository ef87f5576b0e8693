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
