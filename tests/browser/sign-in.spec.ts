import { createHmac } from "node:crypto";
import type { Page } from "@playwright/test";
import { counted, expect, leftOpen, notice, openBench, test, type App } from "./app";
import { axe } from "./axe";
import { makeEmptyTemplate, NOBODY } from "./prepare";

/** Coming in and leaving, by keys, on a phone, and where somebody wishes it ill. */

const PASSWORD = "seven larches by the lake";

/** Goes there from the bench by keys. */
async function toYou(page: Page): Promise<void> {
  await page.keyboard.press(";");
  await page.keyboard.type("you: sign");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Where you are signed in" })).toBeVisible();
}

/** The browser's frame has one of its own. */
const alert = (page: Page) => page.getByRole("main").getByRole("alert");
const section = (page: Page, name: string) => page.getByRole("region", { name, exact: true });
const atSignIn = (page: Page) => expect(page.getByRole("form", { name: "Sign in" })).toBeVisible();
const address = async (app: App) => (await app.get<{ person: { address: string } }>("/home")).person.address;

/** A password for the person of the app, who came in by a link. */
const withPassword = (app: App) =>
  app.fetch("/password", {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ old: "", password: PASSWORD }),
  });

/** All the browser keeps of this app, as text. */
const kept = (page: Page): Promise<string> =>
  page.evaluate(async () => {
    const all: string[] = [JSON.stringify({ ...localStorage }), JSON.stringify({ ...sessionStorage })];
    for (const name of await caches.keys()) {
      const cache = await caches.open(name);
      for (const request of await cache.keys())
        if (!name.startsWith("tachyne-pages")) all.push(await (await cache.match(request))!.text());
    }
    const folder = (await navigator.storage.getDirectory()) as unknown as AsyncIterable<[string, FileSystemFileHandle]>;
    for await (const [name, handle] of folder) all.push(name, await (await handle.getFile()).text());
    for (const { name } of await indexedDB.databases()) all.push(name!);
    return all.join("\n");
  });

test.describe("where nobody is yet", () => {
  test.use({ messages: NOBODY, isIn: false });
  test.beforeAll(makeEmptyTemplate);

  test("of a server that others reach, the first person begins by the link that it prints", async ({ page, app }) => {
    // As if it had a name of its own: this one is reached from this machine only.
    await page.route("**/api/v1/sign-in", async (route) => {
      const response = await route.fetch();
      await route.fulfill({ response, json: { ...((await response.json()) as object), byLink: true } });
    });
    await page.goto(app.address);
    await expect(page.getByText("Whoever runs this machine begins, by a link that it prints:")).toBeVisible();
    await expect(page.getByText("npm run sign-in")).toBeVisible();
    await expect(page.getByRole("form")).toHaveCount(0);
    await axe(page, "nobody is here yet");
    // Where this screen stands already.
    await page.goto(`${app.address}/sign-in#invitation=${app.link("--first")}`);
    await expect(page.getByRole("form", { name: "Begin" })).toBeVisible();
    await page.keyboard.type("Ines");
    await page.keyboard.press("Tab");
    await page.keyboard.type("ines@larch.example");
    await page.keyboard.press("Tab");
    await page.keyboard.type(PASSWORD);
    await page.keyboard.press("Enter");
    await expect(page).toHaveURL(`${app.address}/`);
    await expect(page.getByText("Accounts connects an account of yours")).toBeVisible();
    await page.goto(`${app.address}/you`);
    await expect(page.getByRole("heading", { name: "Somebody else" })).toBeVisible();
  });

  test("the first person begins by keys, invites another, and each sees only their own", async ({
    page,
    app,
    browser,
  }) => {
    await page.goto(`${app.address}/ledger`);
    await expect(page.getByRole("form", { name: "Begin" })).toBeVisible();
    await axe(page, "begin");
    await page.keyboard.type("Ilse Larch");
    await page.keyboard.press("Tab");
    await page.keyboard.type("ilse at larch");
    await page.keyboard.press("Tab");
    await page.keyboard.type("short");
    await expect(page.getByText("Write it like name@host.example.")).toBeVisible();
    await expect(page.getByText("Use at least 12 characters")).toBeVisible();
    await page.keyboard.press("Enter");
    await expect(page.getByRole("button", { name: "Begin" })).toBeDisabled();
    await page.keyboard.press("ControlOrMeta+a");
    await page.keyboard.type(PASSWORD);
    await page.keyboard.press("Shift+Tab");
    await page.keyboard.press("ControlOrMeta+a");
    await page.keyboard.type("ilse@larch.example");
    await page.keyboard.press("Enter");
    // Where they wanted to go first.
    await expect(page).toHaveURL(`${app.address}/ledger`);
    await page.goto(app.address);
    await expect(page.locator("#places")).toContainText("Inbox");

    // By its address: an empty bench has nothing that says when it takes keys.
    await page.goto(`${app.address}/you`);
    await expect(page.getByRole("heading", { name: "Where you are signed in" })).toBeVisible();
    await axe(page, "you");
    await page.getByRole("button", { name: "Make a link" }).click();
    const link = await page.getByLabel("The link").inputValue();
    const other = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });
    const guest = await other.newPage();
    await guest.goto(link);
    await guest.getByLabel("Your name").fill("Bo <b>Ridge</b>");
    await guest.getByLabel("Your e-mail address").fill("ILSE@larch.example");
    await guest.getByLabel("A password", { exact: true }).fill(PASSWORD);
    await guest.getByRole("button", { name: "Begin" }).tap();
    await expect(alert(guest)).toContainText("Use another address.");
    await axe(guest, "invited, on a phone");
    await guest.getByLabel("Your e-mail address").fill("bo@larch.example");
    await guest.getByRole("button", { name: "Begin" }).tap();
    await expect(guest).toHaveURL(`${app.address}/`);
    await guest.goto(`${app.address}/you`);
    await expect(guest.getByText("Bo <b>Ridge</b>, bo@larch.example")).toBeVisible();
    await expect(guest.getByRole("heading", { name: "Somebody else" })).toHaveCount(0);
    // The link was used up by it.
    await guest.goto("about:blank");
    await guest.goto(link);
    await guest.getByLabel("Your name").fill("Again");
    await guest.getByLabel("Your e-mail address").fill("again@larch.example");
    await guest.getByLabel("A password", { exact: true }).fill(PASSWORD);
    await guest.getByRole("button", { name: "Begin" }).tap();
    await expect(alert(guest)).toContainText("It works once");
    await other.close();
  });
});

test("signing out stores what was decided, and leaves nothing to read; the password lets in again", async ({
  page,
  app,
}) => {
  await withPassword(app);
  const mine = await address(app);
  await openBench(page, app);
  const before = await counted(page);
  const subject = await page.locator("[data-place='0']").innerText();
  const word = /[A-Za-z]{5,}/.exec(subject)![0];
  // What is written to the browser in the background is there by then.
  await expect.poll(() => kept(page), { timeout: 60_000 }).toContain(word);
  for (let n = 0; n < 5; n++) await page.keyboard.press("f");
  await toYou(page);
  await page.getByRole("button", { name: "Sign out", exact: true }).click();
  await atSignIn(page);
  const left = await kept(page);
  expect(left).not.toContain(word);
  expect(left).not.toContain("larchhuts");
  await page.goBack();
  await atSignIn(page);
  expect((await app.fetch("/home")).status).toBe(401);

  await axe(page, "sign in");
  const email = page.getByLabel("E-mail address");
  await expect(email).toBeFocused();
  await page.keyboard.type(mine);
  await page.keyboard.press("Tab");
  await page.keyboard.type("not the password");
  await page.keyboard.press("Enter");
  await expect(alert(page)).toContainText("The address or the password is wrong.");
  for (let n = 0; n < 5; n++) {
    await page.keyboard.press("ControlOrMeta+a");
    await page.keyboard.type(`not the password ${n}`);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("button", { name: "Sign in", exact: true })).toBeEnabled();
  }
  await expect(alert(page)).toContainText(/Wait \d+ seconds/);
  await axe(page, "wrong");
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type(PASSWORD);
  await expect(async () => {
    await page.keyboard.press("Enter");
    await expect(page).not.toHaveURL(/sign-in/, { timeout: 2000 });
  }).toPass();
  await page.goto(app.address);
  await expect.poll(() => counted(page)).toBe(before - 5);
});

test("a session that is ended elsewhere lets go at once, and what was decided in it is stored when one is in again", async ({
  page,
  app,
  browser,
}) => {
  await withPassword(app);
  const mine = await address(app);
  const lost = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const there = await lost.newPage();
  await there.goto(`${app.address}/`);
  await atSignIn(there);
  await there.keyboard.type(mine);
  await there.keyboard.press("Tab");
  await there.keyboard.type(PASSWORD);
  await there.keyboard.press("Enter");
  await expect(there.locator("[data-place='0']")).toBeVisible();
  await openBench(there, app);
  const before = await counted(there);
  // Their decisions go nowhere yet.
  await there.route("**/api/v1/runs", (route) => route.abort());
  await there.keyboard.press("f");
  await there.keyboard.press("f");
  await expect.poll(() => counted(there)).toBe(before - 2);

  await openBench(page, app);
  await toYou(page);
  const sessions = page.getByRole("list", { name: "Sessions" }).getByRole("listitem");
  await expect(sessions).toHaveCount(2);
  await expect(sessions.filter({ hasText: "here" })).toHaveCount(1);
  await sessions.filter({ hasText: "by password" }).getByRole("button", { name: "End" }).click();
  await expect(notice(page)).toContainText("That session is over.");
  await expect(sessions).toHaveCount(1);
  // No key was pressed there.
  await atSignIn(there);
  expect(await app.count("folder=Inbox")).toBe(before);
  await there.unroute("**/api/v1/runs");
  await there.keyboard.type(mine);
  await there.keyboard.press("Tab");
  await there.keyboard.type(PASSWORD);
  await there.keyboard.press("Enter");
  await expect(there.locator("[data-place='0']")).toBeVisible();
  await expect.poll(() => app.count("folder=Inbox")).toBe(before - 2);
  await lost.close();
});

test("nobody is signed out while another window has something that is not stored", async ({ page, app }) => {
  await openBench(page, app);
  const other = await page.context().newPage();
  await openBench(other, app);
  const before = await counted(other);
  await other.route("**/api/v1/runs", (route) => route.abort());
  await other.keyboard.press("f");
  await expect.poll(() => counted(other)).toBe(before - 1);
  await toYou(page);
  const leave = page.getByRole("button", { name: "Sign out", exact: true });
  await leave.click();
  await expect(notice(page)).toContainText("here or in another window");
  expect(await app.count("folder=Inbox")).toBe(before);
  await other.unroute("**/api/v1/runs");
  await expect.poll(() => app.count("folder=Inbox")).toBe(before - 1);
  await leave.click();
  await atSignIn(page);
  await atSignIn(other);
});

test("a link is used once the server is there, also where the screen stood already, and says when it is over", async ({
  app,
  browser,
}) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: "dark" });
  const page = await context.newPage();
  await page.goto(`${app.address}/sign-in`);
  await atSignIn(page);
  let tries = 0;
  await page.route("**/api/v1/sign-in/link", (route) => (++tries === 1 ? route.abort() : route.continue()));
  const link = `${app.address}/sign-in#link=${app.link()}`;
  await page.goto(link);
  await expect(page.getByText("The server does not answer. It is asked again.")).toBeVisible();
  await axe(page, "away, by night");
  await expect(page.locator("[data-place='0']")).toBeVisible();
  expect(tries).toBe(2);
  await context.close();
  const later = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: "dark" });
  const again = await later.newPage();
  await again.goto(link);
  await expect(alert(again)).toContainText("It works once");
  await axe(again, "over, by night");
  await later.close();
});

/** What an app on a phone shows for a secret (RFC 6238), made here by itself. */
function codeOf(secret: string, step: number): string {
  let value = 0n;
  for (const letter of secret) value = value * 32n + BigInt("ABCDEFGHIJKLMNOPQRSTUVWXYZ234567".indexOf(letter));
  const counter = Buffer.alloc(8);
  counter.writeBigUInt64BE(BigInt(step));
  const bytes = createHmac("sha1", Buffer.from(value.toString(16).padStart(40, "0"), "hex"))
    .update(counter)
    .digest();
  return String((bytes.readUInt32BE(bytes[19]! & 15) & 0x7fffffff) % 1_000_000).padStart(6, "0");
}
const step = () => Math.floor(Date.now() / 30_000);

test("codes are turned on, asked for, and one on paper lets in once", async ({ page, app }) => {
  const mine = await address(app);
  await page.goto(`${app.address}/you`);
  const codes = section(page, "Codes beside the password");
  await expect(codes.getByRole("button", { name: "Ask for codes" })).toBeDisabled();
  await section(page, "A password").getByLabel("The new one").click();
  await page.keyboard.type(PASSWORD);
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("You have a password now.");
  await codes.getByRole("button", { name: "Ask for codes" }).click();
  const secret = (await page.getByTestId("code-secret").innerText()).replaceAll(/\s/g, "");
  await codes.getByLabel("The code it shows").click();
  await page.keyboard.type("000000");
  await page.keyboard.press("Enter");
  await expect(codes.getByRole("alert")).toContainText("wrong");
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type(codeOf(secret, step() - 1));
  await page.keyboard.press("Enter");
  const onPaper = codes.getByRole("group", { name: "Codes on paper" }).getByRole("listitem");
  await expect(onPaper).toHaveCount(10);
  const paper = await onPaper.allInnerTexts();
  await axe(page, "codes on paper");
  await codes.getByRole("button", { name: "I have them" }).click();
  await expect(codes).toContainText("10 codes on paper are left.");

  await page.getByRole("button", { name: "Sign out", exact: true }).click();
  await atSignIn(page);
  const comeTo = async (code: string) => {
    await page.keyboard.type(mine);
    await page.keyboard.press("Tab");
    await page.keyboard.type(PASSWORD);
    await page.keyboard.press("Enter");
    await expect(page.getByLabel("Code")).toBeFocused();
    await expect(alert(page)).toHaveCount(0);
    await page.keyboard.type(code);
    await page.keyboard.press("Enter");
  };
  await comeTo(paper[2]!);
  await expect(page.locator("[data-place='0']")).toBeVisible();
  await page.goto(`${app.address}/you`);
  await expect(codes).toContainText("9 codes on paper are left.");
  await page.getByRole("button", { name: "Sign out", exact: true }).click();
  await atSignIn(page);
  await comeTo(paper[2]!);
  await expect(alert(page)).toContainText("The code is wrong, or was used.");
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type(codeOf(secret, step() + 1));
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-place='0']")).toBeVisible();
});

test("a passkey is made, lets in without a password, and lets nobody in once it is removed", async ({ page, app }) => {
  const cdp = await page.context().newCDPSession(page);
  await cdp.send("WebAuthn.enable");
  await cdp.send("WebAuthn.addVirtualAuthenticator", {
    options: {
      protocol: "ctap2",
      transport: "internal",
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
  // A number has none: the same machine's name is offered.
  await page.goto(`${app.address}/you`);
  const passkeys = section(page, "Passkeys");
  await passkeys.getByRole("link").click();
  const named = app.address.replace("127.0.0.1", "localhost");
  await expect(page).toHaveURL(/localhost.*sign-in/);
  const link = app.link();
  await page.goto(`${named}/sign-in#link=${link}`);
  await expect(page.locator("[data-place='0']")).toBeVisible();
  await page.goto(`${named}/you`);
  await passkeys.getByRole("button", { name: "Make one on this device" }).click();
  await expect(notice(page)).toContainText("This device lets you in now.");
  await expect(passkeys.getByRole("listitem")).toContainText("not used yet");
  await passkeys.getByRole("button", { name: "Make one on this device" }).click();
  await expect(notice(page)).toContainText("has a passkey of yours already");
  await axe(page, "passkeys");
  // Left open, the window asks once more who sits there; the passkey shows it.
  await leftOpen(app);
  await page.reload();
  await expect(passkeys.getByRole("button", { name: "Make one on this device" })).toBeDisabled();
  await section(page, "Is it still you?").getByRole("button", { name: "Show it with a passkey" }).click();
  await expect(notice(page)).toContainText("It is you");
  await expect(passkeys.getByRole("button", { name: "Make one on this device" })).toBeEnabled();
  // By its number the app is told where a passkey can show it.
  await leftOpen(app);
  await page.goto(`${app.address}/you`);
  await expect(section(page, "Is it still you?").getByRole("link", { name: /localhost/ })).toBeVisible();
  await page.goto(`${named}/you`);
  await page.getByRole("button", { name: "Sign out", exact: true }).click();
  await atSignIn(page);
  await page.getByRole("button", { name: "Sign in with a passkey" }).click();
  await expect(page.locator("[data-place='0']")).toBeVisible();
  await page.goto(`${named}/you`);
  await expect(passkeys.getByRole("listitem")).toContainText("used last");
  await expect(page.getByRole("list", { name: "Sessions" })).toContainText("by passkey");
  await passkeys.getByRole("button", { name: "Remove" }).click();
  await expect(passkeys.getByRole("listitem")).toHaveCount(0);
  await page.getByRole("button", { name: "Sign out", exact: true }).click();
  await atSignIn(page);
  await page.getByRole("button", { name: "Sign in with a passkey" }).click();
  await expect(alert(page)).toContainText("That passkey is not known here");
});
