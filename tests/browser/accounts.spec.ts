import type { Page } from "@playwright/test";
import { expect, notice, openBench, test } from "./app";
import { letter, PASSWORD, startMailService, type MailService } from "../fixtures/mail-service";

/** A mail server of one's own: connected, worked on from both sides, written from, given up. */

let service: MailService;
test.beforeAll(async () => {
  service = await startMailService(["desk", "rota", "folders", "slow"]);
});
test.afterAll(() => service.end());

async function goTo(page: Page, name: string): Promise<void> {
  await page.keyboard.press(";");
  await page.keyboard.type(name);
  await page.keyboard.press("Enter");
}

/** What the list is to be of. */
async function narrow(page: Page, conditions: string): Promise<void> {
  await expect(page.locator("[data-place]").first()).toBeVisible();
  await page.keyboard.press("/");
  await page.keyboard.type(conditions);
  await page.keyboard.press("Enter");
}

/** Writes where the servers are, by keys: one field after another. */
async function connect(page: Page, user: string, password: string): Promise<void> {
  const { imap, smtp } = service.servers(user);
  const field = (name: string) => page.getByLabel(name, { exact: true });
  await expect(field("IMAP server")).toBeVisible();
  for (const [name, { host, port }] of Object.entries({ IMAP: imap, SMTP: smtp })) {
    await field(`${name} server`).fill(host);
    await field(`${name} port`).fill(String(port));
    await field(`${name} encryption`).selectOption("none");
  }
  await field("Name the servers know you by").fill(user);
  await field("Password").fill(password);
}

test("an account is connected, worked on from both sides, written from, and given up", async ({ page, app }) => {
  const bare = await service.bare("desk");
  for (let n = 1; n <= 520; n++) await bare.append("INBOX", letter(n, `Zirbel ${n}`));
  await openBench(page, app);
  const inbox = await app.count("folder=Inbox");
  await goTo(page, "mail servers");
  await expect(page.getByText("No mail server is connected yet")).toBeVisible();
  // Where a new message is written elsewhere, an account is begun here.
  await page.keyboard.press("n");
  await page.keyboard.type("desk@huts.example");
  await page.keyboard.press("Enter");
  await connect(page, "desk", "not this");
  await page.getByRole("button", { name: "Try it" }).click();
  const said = page.getByRole("list", { name: "What the servers said" });
  await expect(said).toContainText("does not take the name and password");
  await page.getByRole("button", { name: "Connect", exact: true }).click();
  await expect(page.getByRole("alert").filter({ hasText: "Nothing was stored" })).toBeVisible();
  await page.getByLabel("Password", { exact: true }).fill(PASSWORD);
  await page.getByRole("button", { name: "Connect", exact: true }).click();
  await expect(notice(page)).toContainText("is connected");
  const card = page.locator("[data-account]").last();
  await expect(card).toContainText("520 messages here");
  await expect(card).toContainText("Up to date");
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox + 520);

  // Five hundred and more are archived by one key, and another program sees them moved.
  await goTo(page, "inbox");
  await narrow(page, "subject~zirbel");
  await expect(page.getByTestId("count")).toContainText("520");
  service.wire.commands.length = 0;
  await page.keyboard.press("Control+a");
  await page.keyboard.press("f");
  await expect(page.getByRole("dialog")).toContainText("520");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await bare.list("Archive")).length).toBe(520);
  expect(await bare.list("INBOX")).toEqual([]);
  expect(service.wire.commands.filter((command) => /MOVE|STORE|COPY/.test(command)).length).toBeLessThanOrEqual(3);
  await page.keyboard.press("u");
  await expect.poll(async () => (await bare.list("INBOX")).length).toBe(520);

  // What the other program does is here by itself.
  await goTo(page, "inbox");
  await narrow(page, 'subject="Zirbel 520"');
  const row = page.locator("[data-place='0']");
  await expect(row).toContainText("Zirbel 520");
  await bare.select("INBOX");
  const { uid } = (await bare.list("INBOX")).find(({ messageId }) => messageId === "<m520@post.example>")!;
  await bare.run(`UID STORE ${uid} +FLAGS (\\Flagged)`);
  await expect.poll(() => app.count('subject="Zirbel 520" & flagged')).toBe(1);
  await bare.append("INBOX", letter(521, "Zirbel 521"));
  await expect.poll(() => app.count('subject="Zirbel 521"')).toBe(1);
  await page.keyboard.press("Shift+N");
  await expect(notice(page)).toContainText("Looked for mail: nothing new.");

  // An answer goes by the account's server, and is in its Sent once.
  const before = service.delivered.length;
  await page.keyboard.press("r");
  await expect(page.getByRole("region", { name: "Composer" })).toBeVisible();
  await page.keyboard.type("Six beds are free.");
  await page.keyboard.press("Control+Enter");
  await expect.poll(() => service.delivered.length, { timeout: 60_000 }).toBe(before + 1);
  expect(service.delivered.at(-1)).toMatchObject({ to: ["guest520@post.example"] });
  expect(service.delivered.at(-1)!.raw).toContain("Six beds are free.");
  await expect.poll(async () => (await bare.list("Sent")).length).toBe(1);
  await expect
    .poll(async () => (await bare.list("INBOX")).find((one) => one.uid === uid)?.flags)
    .toContain("\\Answered");
  expect(await bare.list("Sent")).toHaveLength(1);

  await goTo(page, "mail servers");
  await card.getByRole("button", { name: "Give up" }).click();
  await page.keyboard.press("Tab");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("is given up");
  await expect(page.getByText("No mail server is connected yet")).toBeVisible();
  await page.keyboard.press("u");
  await expect.poll(() => app.count('subject="Zirbel 1" & folder=Inbox')).toBe(1);
  expect(await bare.list("INBOX")).toHaveLength(521);
  bare.close();
});

test("a server that is away is said, in the rack too, and what is decided goes there once it is back", async ({
  page,
  app,
}) => {
  const bare = await service.bare("rota");
  for (let n = 1; n <= 3; n++) await bare.append("INBOX", letter(n, `Gams ${n}`));
  bare.close();
  await openBench(page, app);
  await goTo(page, "mail servers");
  await expect(page.getByText("No mail server is connected yet")).toBeVisible();
  await page.keyboard.press("n");
  await page.keyboard.type("rota@huts.example");
  await page.keyboard.press("Enter");
  await connect(page, "rota", PASSWORD);
  await page.getByRole("button", { name: "Connect", exact: true }).click();
  const card = page.locator("[data-account]").last();
  await expect(card).toContainText("3 messages here");
  await service.imap.stop();
  await expect(card.getByRole("alert")).toContainText("closes the connection");
  await expect(page.getByRole("navigation", { name: "Places" })).toContainText("trouble");
  await goTo(page, "inbox");
  await narrow(page, "subject~gams");
  await expect(page.getByTestId("count")).toContainText("3");
  await page.keyboard.press("Control+a");
  await page.keyboard.press("f");
  await goTo(page, "mail servers");
  await expect(card).toContainText("3 waiting");
  await service.imap.restart();
  await expect(card).toContainText("Up to date", { timeout: 60_000 });
  const again = await service.bare("rota");
  expect(await again.list("Archive")).toHaveLength(3);
  again.close();
});

test("mail is worked with before its texts are here; what is looked at comes by itself, before the others", async ({
  page,
  app,
}) => {
  const bare = await service.bare("slow");
  for (let n = 1; n <= 4; n++) await bare.append("INBOX", letter(n, `Lawine ${n}`));
  service.wire.refuse = (command) => (/BODY\.PEEK\[\]/.test(command) ? "NO [INUSE] not now" : null);
  await openBench(page, app);
  await goTo(page, "mail servers");
  await expect(page.getByText("No mail server is connected yet")).toBeVisible();
  await page.keyboard.press("n");
  await page.keyboard.type("slow@huts.example");
  await page.keyboard.press("Enter");
  await connect(page, "slow", PASSWORD);
  await page.getByRole("button", { name: "Connect", exact: true }).click();
  const card = page.locator("[data-account]").last();
  await expect(card).toContainText("4 messages here");
  await expect(card).toContainText("4 texts still on the server");
  await card.getByRole("button", { name: "Give up" }).click();
  await expect(card).toContainText("their texts stay on the server alone");
  await card.getByRole("button", { name: "Leave the account" }).click();

  await goTo(page, "import");
  await expect(
    page.getByText("The texts of 4 messages are on their server still: everything is exported"),
  ).toBeVisible();
  await goTo(page, "inbox");
  await narrow(page, "subject~lawine");
  await expect(page.getByTestId("count")).toContainText("4");
  await page.getByRole("button", { name: "export" }).click();
  await expect(page.getByRole("menu")).toContainText("a list with one of them is exported once they are here");
  await page.keyboard.press("Escape");
  const reader = page.getByRole("region", { name: "Message" });
  await expect(reader).toContainText("Only its headers are here");
  await expect(reader).toContainText("(its text is on its way)");
  const looked = (await reader.getByRole("heading", { name: /Lawine/ }).textContent())!;
  await reader.getByRole("button", { name: "Source" }).click();
  await expect(reader).toContainText("Its text is on the server still, and comes before others now.");
  await reader.getByRole("button", { name: "Message" }).click();

  service.wire.refuse = (command) =>
    /BODY\.PEEK\[\]/.test(command) && !/^UID FETCH \d+ /.test(command) ? "NO [INUSE] not now" : null;
  const n = /\d+/.exec(looked)![0];
  await expect(reader).toContainText(`Beds, please: ${n}.`);
  await expect(reader).not.toContainText("Only its headers are here");
  await page.keyboard.press("f");
  await expect
    .poll(async () => (await bare.list("Archive")).map(({ messageId }) => messageId))
    .toEqual([`<m${n}@post.example>`]);
  service.wire.refuse = () => null;
  bare.close();
});

test("folders are chosen before and after connecting; the inbox unfolds by account, and account= narrows", async ({
  page,
  app,
}) => {
  const bare = await service.bare("folders");
  await bare.run("CREATE Steinbock");
  await bare.run("CREATE Murmel");
  await bare.append("INBOX", letter(1, "Gams 1"));
  await bare.append("Steinbock", letter(2, "Gams 2"));
  await bare.append("Murmel", letter(3, "Gams 3"));
  bare.close();
  await openBench(page, app);
  await goTo(page, "mail servers");
  await expect(page.getByText("No mail server is connected yet")).toBeVisible();
  await page.keyboard.press("n");
  await page.keyboard.type("folders@huts.example");
  await page.keyboard.press("Enter");
  await connect(page, "folders", PASSWORD);
  await page.getByRole("button", { name: "Try it" }).click();
  await page.getByRole("checkbox", { name: /^Steinbock/ }).uncheck();
  await page.getByLabel("Called").fill("Alp desk");
  await page.getByRole("button", { name: "Connect", exact: true }).click();
  const card = page.locator("[data-account]").last();
  await expect(card).toContainText("2 messages here");
  await expect(card).toContainText("Up to date");
  expect(await app.count('subject="Gams 2"')).toBe(0);
  await card.getByRole("button", { name: "Folders" }).click();
  await expect(card.getByRole("checkbox", { name: /^Murmel/ })).toBeChecked();
  await card.getByRole("checkbox", { name: /^Steinbock/ }).check();
  await card.getByRole("button", { name: "Store" }).click();
  await expect(card).toContainText("3 messages here");
  expect(await app.count('subject="Gams 2" & folder=Steinbock & account="Alp desk"')).toBe(1);

  // By account, below the inbox, where that is asked for.
  const rack = page.getByRole("navigation", { name: "Places" });
  await expect(rack.getByRole("button", { name: /^Alp desk/ })).toHaveCount(0);
  await rack.getByRole("button", { name: "Unfold Inbox" }).click();
  await rack.getByRole("button", { name: /^Alp desk/ }).click();
  await expect(page.getByTestId("count")).toHaveText(/^1 /);
  await expect(page.locator("[data-place='0']")).toContainText("Gams 1");
  await page.reload();
  await expect(rack.getByRole("button", { name: /^Alp desk/ })).toHaveAttribute("aria-current", "page");
  await rack.getByRole("button", { name: "Fold Inbox" }).click();
  await goTo(page, "all mail");
  await narrow(page, 'account="Alp desk"');
  await expect(page.getByTestId("count")).toHaveText(/^3 /);
});
