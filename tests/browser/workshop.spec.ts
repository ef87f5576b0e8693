import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { counted, expect, notice, openBench, test } from "./app";

async function addStep(page: Page, name: string): Promise<void> {
  const steps = await page.locator("[data-step]").count();
  await page.locator("[data-add-step='']").click();
  await page.keyboard.type(name);
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-step]")).toHaveCount(steps + 1);
}

test("a macro of three steps is made and bound, and runs on one message and on hundreds", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("workshop");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "New macro", exact: true }).click();
  await expect(page.getByLabel("Name of the macro")).toBeFocused();
  await page.keyboard.type("Winter group");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-add-step='']")).toBeFocused();
  await addStep(page, "mark read");
  // The label and the folder are asked for at once, and made or chosen on the spot.
  await addStep(page, "label");
  await expect(page.getByRole("dialog", { name: "Which label?" })).toBeVisible();
  await page.keyboard.type("Ski tours");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-step='2']")).toContainText("Ski tours");
  await addStep(page, "move");
  await page.keyboard.type("groups");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-step='3']")).toContainText("Bookings/Groups");
  // Reordered by keys, and back by undo.
  await page.locator("[data-step='3']").getByRole("button", { name: "Drag step 3" }).focus();
  await page.keyboard.press("Alt+ArrowUp");
  await expect(page.locator("[data-step='2']")).toContainText("Move");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.locator("[data-step='3']")).toContainText("Move");

  // F is taken: the clash is shown, with the way out.
  await page.getByRole("button", { name: "Bind to a key" }).click();
  await page.keyboard.press("j");
  await expect(page.getByRole("alert").filter({ hasText: "frame key" })).toBeVisible();
  await page.getByRole("button", { name: "Another key" }).click();
  await page.keyboard.press("f");
  await expect(page.getByRole("alert").filter({ hasText: "F runs Archive now" })).toBeVisible();
  await page.getByRole("button", { name: "Put Winter group there instead" }).click();
  await expect(page.locator("[data-pad='KeyF']")).toContainText("Winter group");

  await page.getByRole("button", { name: /^Inbox/ }).click();
  await expect(page.locator("[data-place]").first()).toBeVisible();
  const groups = await app.count("folder=Bookings/Groups");
  await page.keyboard.press("f");
  await expect.poll(() => app.count("folder=Bookings/Groups")).toBe(groups + 1);
  expect(await app.count('label="Ski tours" & read & folder=Bookings/Groups')).toBe(1);

  const selected = async () => (/selected/.test(await page.getByTestId("count").innerText()) ? counted(page) : 0);
  for (let i = 0; i < 40 && (await selected()) < 300; i++) await page.keyboard.press("Shift+PageDown");
  const ticked = await selected();
  expect(ticked).toBeGreaterThanOrEqual(300);
  await page.keyboard.press("f");
  await expect(notice(page)).toContainText(`${ticked} messages`);
  await expect.poll(() => app.count('label="Ski tours" & read & folder=Bookings/Groups')).toBe(ticked + 1);
  await page.keyboard.press("u");
  await expect.poll(() => app.count('label="Ski tours"')).toBe(1);
  await page.keyboard.press("Shift+U");
  await expect.poll(() => app.count('label="Ski tours"')).toBe(ticked + 1);

  // Everything is as it was left after a restart, the ledger included.
  const ledger = page.getByTestId("ledger").locator("li");
  await expect(ledger).toHaveCount(4);
  await expect(ledger.first()).toContainText("Did again Winter group");
  await expect(ledger.filter({ hasText: "waiting" })).toHaveCount(0);
  const before = await ledger.allInnerTexts();
  await app.stop();
  await app.start();
  await page.reload();
  await expect(page.locator("[data-place]").first()).toBeVisible();
  await expect(page.locator('[data-macro="Winter group"]')).toBeVisible();
  await expect(ledger).toHaveText(before.map((line) => line.replaceAll("\n", "")));
});

test("a deleted macro comes back with its key, pads swap by dragging, and bad names are explained", async ({
  page,
  app,
}) => {
  const pads = async () => (await app.get<{ pads: unknown[] }[]>("/decks"))[0]!.pads.length;
  const before = await pads();
  await page.goto(`${app.address}/workshop`);
  await page.locator("[data-pad='KeyD']").click();
  await page.getByRole("button", { name: "Delete", exact: true }).click();
  await expect(page.locator("[data-pad='KeyD']")).not.toContainText("Trash");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.locator("[data-pad='KeyD']")).toContainText("Trash");
  await page.locator("[data-pad='KeyD']").dragTo(page.locator("[data-pad='KeyG']"));
  await expect(page.locator("[data-pad='KeyG']")).toContainText("Trash");
  await expect(page.locator("[data-pad='KeyD']")).toContainText("Follow up");
  expect(await pads()).toBe(before);
});

test("an mbox comes in by upload, with progress and what could not come in; the same file makes no doubles", async ({
  page,
  app,
}) => {
  const mail = (n: number) =>
    `From a@post.example Mon Nov  2 09:00:0${n} 2026\nFrom: Ines <ines@post.example>\nSubject: Upload ${n}\nMessage-ID: <u${n}@post.example>\nDate: Mon, 02 Nov 2026 09:00:0${n} +0000\n\nHello ${n}\n\n`;
  const file = {
    name: "own.mbox",
    mimeType: "application/mbox",
    buffer: Buffer.from(`rubbish\n${[1, 2, 3].map(mail).join("")}`),
  };
  await page.goto(`${app.address}/import`);
  await page.getByLabel("Into the folder").fill("My mail");
  await page.getByLabel("File").setInputFiles(file);
  const job = page.locator("[data-job='own.mbox']").first();
  await expect(job).toHaveAttribute("data-state", "done");
  await expect(job).toContainText("3 added, 1 could not come in");
  await page.getByRole("button", { name: "My mail" }).click();
  await expect(page.getByTestId("count")).toHaveText("3 messages");
  await page.keyboard.press("Control+a");
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Trash")).toBe(3);
  await page.getByRole("link", { name: "Import" }).click();
  await page.getByLabel("File").setInputFiles(file);
  await expect(page.locator("[data-job='own.mbox']").first()).toContainText("3 were here already");
});

test("several files go one behind the other while something else is looked at; what failed is said by its name", async ({
  page,
  app,
}) => {
  const file = (name: string, n: number) => ({
    name,
    mimeType: "application/mbox",
    buffer: Buffer.from(
      `From a@post.example Mon Nov  2 09:00:0${n} 2026\nFrom: Ines <ines@post.example>\nSubject: Behind ${n}\nMessage-ID: <b${n}@post.example>\nDate: Mon, 02 Nov 2026 09:00:0${n} +0000\n\nHello ${n}\n\n`,
    ),
  });
  const held: (() => void)[] = [];
  await page.route(/\/api\/v1\/import\?/, async (route) => {
    await new Promise<void>((resolve) => held.push(resolve));
    if (!route.request().url().includes("second")) return route.continue();
    await route.fulfill({
      status: 507,
      contentType: "application/problem+json",
      body: '{"detail":"The disk is full."}',
    });
  });
  await page.goto(`${app.address}/import`);
  await page.getByLabel("File").setInputFiles([file("first.mbox", 1), file("second.mbox", 2)]);
  await page.getByLabel("File").setInputFiles(file("third.mbox", 3));
  const status = page.getByRole("status").filter({ hasText: "Sending" });
  await expect(status).toContainText("Sending first.mbox");
  await expect(status).toContainText("2 files behind it");
  // Closing the window would cut it off: that is asked about.
  await page.getByRole("heading", { name: "Import", exact: true }).click();
  const asked = page.waitForEvent("dialog");
  const leaving = page.reload().catch(() => undefined);
  const dialog = await asked;
  expect(dialog.type()).toBe("beforeunload");
  await dialog.dismiss();
  await Promise.race([leaving, expect(status).toBeVisible()]);
  await page.getByRole("link", { name: "Places", exact: true }).click();
  await expect(page.getByRole("heading", { name: "Places", exact: true })).toBeVisible();
  for (let i = 0; i < 3; i++) {
    await expect.poll(() => held.length).toBe(i + 1);
    held[i]!();
  }
  await page.getByRole("link", { name: "Import" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "second.mbox: The disk is full." })).toBeVisible();
  for (const name of ["first.mbox", "third.mbox"])
    await expect(page.locator(`[data-job='${name}']`)).toHaveAttribute("data-state", "done");
  await expect(status).toHaveCount(0);
});

test("everything is exported as one file, and brought in again it changes nothing", async ({ page, app }) => {
  await openBench(page, app);
  await page.keyboard.press("d");
  await expect.poll(() => app.count("folder=Trash")).toBe(1);
  const messages = await app.count("");
  await page.getByRole("link", { name: "Import" }).click();
  const coming = page.waitForEvent("download");
  await page.getByRole("link", { name: "Export everything" }).click();
  const file = await coming;
  expect(file.suggestedFilename()).toMatch(/^tachyne-\d{4}-\d\d-\d\d\.zip$/);
  await page.getByLabel("File").setInputFiles({
    name: "everything.zip",
    mimeType: "application/zip",
    buffer: await readFile(await file.path()),
  });
  const job = page.locator("[data-job='everything.zip']").first();
  await expect(job).toHaveAttribute("data-state", "done", { timeout: 60_000 });
  await expect(job).toContainText(/0 added, [\d,]+ were here already/);
  expect(await app.count("")).toBe(messages);
  expect(await app.count("folder=Trash")).toBe(1);
});
