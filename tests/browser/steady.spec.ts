import type { Page } from "@playwright/test";
import { counted, expect, openBench, test, type App } from "./app";

/** What has the focus stays what it is, whatever another window or a program does to the list meanwhile. */

const EMPTY = { type: "doc", content: [{ type: "paragraph" }] };

const send = async (page: Page, app: App, method: "POST" | "PATCH", path: string, data: object): Promise<void> => {
  const answer = await page.request.fetch(`${app.address}/api/v1${path}`, { method, data });
  expect(answer.ok()).toBe(true);
};

test("a task that is more pressing takes no key and no letter that is meant for the one before it", async ({
  page,
  app,
}) => {
  await send(page, app, "POST", "/tasks", { title: "ropes" });
  await send(page, app, "POST", "/tasks", { title: "blankets" });
  await page.goto(`${app.address}/tasks`);
  const first = page.locator("[data-task]").first();
  await expect(first).toHaveAttribute("aria-current", "true");
  const was = (await first.innerText()).includes("ropes") ? "ropes" : "blankets";
  await page.keyboard.press("Space");
  await page.keyboard.press("End");
  await page.keyboard.type(" and p");
  await send(page, app, "POST", "/tasks", { title: "ladders", due: new Date(Date.now() - 86_400_000).toISOString() });
  await expect(first).toContainText("ladders");
  await page.keyboard.type("egs");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await page.keyboard.press("i");
  const states = async () =>
    (await app.get<{ title: string; done: boolean }[]>("/tasks")).map(({ title, done }) => `${title} ${done}`).sort();
  const other = was === "ropes" ? "blankets" : "ropes";
  await expect.poll(states).toEqual(["ladders false", `${other} false`, `${was} and pegs true`].sort());
});

test("the rule that has the focus keeps it where rules are put into another order", async ({ page, app }) => {
  const [macro] = await app.get<{ id: number }[]>("/macros");
  for (const narrow of ["from~marsh", "from~warden", "unread"])
    await send(page, app, "POST", "/rules", { narrow, macro: macro!.id });
  type Rule = { id: number; narrow: string; on: boolean };
  const rules = () => app.get<Rule[]>("/rules");
  await page.goto(`${app.address}/rules`);
  const focused = page.locator("[data-rule][aria-current=true]");
  const of = async (narrow: string) => (await rules()).find((rule) => rule.narrow === narrow)!;
  await expect(focused).toHaveAttribute("data-rule", String((await of("from~marsh")).id));
  await page.keyboard.press("j");
  const warden = await of("from~warden");
  await expect(focused).toHaveAttribute("data-rule", String(warden.id));
  await send(page, app, "PATCH", `/rules/${(await of("unread")).id}`, { position: 0 });
  await expect(page.locator("[data-rule]").first()).toHaveAttribute("data-rule", String((await of("unread")).id));
  await expect(focused).toHaveAttribute("data-rule", String(warden.id));
  await page.keyboard.press("i");
  await expect.poll(async () => (await rules()).filter(({ on }) => !on).map(({ id }) => id)).toEqual([warden.id]);
  // What is gone gives way to what stands in its place.
  expect((await page.request.delete(`${app.address}/api/v1/rules/${warden.id}`)).ok()).toBe(true);
  await expect(page.locator("[data-rule]")).toHaveCount(2);
  await expect(focused).toHaveCount(1);
});

test("what changed before a window could be told of anything is shown, and so is what another one changes later", async ({
  page,
  app,
}) => {
  const [macro] = await app.get<{ id: number }[]>("/macros");
  let listen = () => {};
  const meanwhile = new Promise<void>((resolve) => (listen = resolve));
  await page.route("**/api/v1/events**", async (route) => {
    await meanwhile;
    await route.continue();
  });
  const asks = page.waitForRequest("**/api/v1/events**");
  await page.goto(`${app.address}/rules`);
  await expect(page.getByRole("heading", { name: "Rules", level: 1 })).toBeVisible();
  await asks;
  await send(page, app, "POST", "/rules", { narrow: "from~marsh", macro: macro!.id });
  listen();
  await expect(page.locator("[data-rule]")).toHaveCount(1);
  await page.getByRole("link", { name: "Contacts" }).click();
  const all = page.getByRole("list", { name: "All contacts" });
  await expect(all.getByRole("listitem").first()).toBeVisible();
  await send(page, app, "POST", "/contacts", { address: "tarn@later.example", name: "Aaron of the Tarn" });
  await expect(all).toContainText("Aaron of the Tarn");
});

test("who has scrolled away stays there when mail comes and goes, and a key brings the focus back", async ({
  page,
  app,
}) => {
  await openBench(page, app);
  const scrolled = () => page.locator("#messages").evaluate((list) => list.scrollTop);
  const box = (await page.locator("[data-place='1']").boundingBox())!;
  await page.mouse.move(box.x + 200, box.y + box.height / 2);
  await page.mouse.wheel(0, 900);
  await expect.poll(scrolled).toBe(900);
  const before = await counted(page);
  const { rows } = await app.get<{ rows: { id: number }[] }>("/messages?narrow=folder%3DInbox&order=newest&limit=3");
  const macro = { name: "Elsewhere", steps: [{ do: "archive" }] };
  await send(page, app, "POST", "/runs", { id: crypto.randomUUID(), macro, target: { ids: [rows[2]!.id] } });
  await expect.poll(() => counted(page)).toBe(before - 1);
  expect(await scrolled()).toBe(900);
  await page.keyboard.press("j");
  await expect(page.locator("[data-focused]")).toBeInViewport();
  await expect.poll(scrolled).toBe(0);
});

test("what a key brings to the focus is in sight, in lists that are longer than the window", async ({ page, app }) => {
  const [macro] = await app.get<{ id: number }[]>("/macros");
  for (let i = 0; i < 24; i++) {
    await send(page, app, "POST", "/rules", { narrow: `from~hut${i}`, macro: macro!.id });
    await send(page, app, "POST", "/contacts", { address: `hut${i}@sight.example`, name: `Hut ${i}` });
    await send(page, app, "POST", "/templates", { name: `Hut ${i}`, body: EMPTY });
  }
  const current = page.locator("main [aria-current=true]").first();
  for (const [path, heading] of [
    ["/rules", "Rules"],
    ["/contacts", "Contacts"],
    ["/templates", "Templates"],
  ] as const) {
    await page.goto(app.address + path);
    await expect(page.getByRole("heading", { name: heading, level: 1 })).toBeVisible();
    await expect(current).toBeInViewport();
    await page.keyboard.press("End");
    await expect(current).toContainText(path === "/rules" ? "24" : /./);
    await expect(current).toBeInViewport({ ratio: 0.9 });
    const last = await current.innerText();
    await page.keyboard.press("Home");
    await expect.poll(() => current.innerText()).not.toBe(last);
    await expect(current).toBeInViewport({ ratio: 0.9 });
  }
});
