import type { Page } from "@playwright/test";
import { expect, focusedId, notice, openBench, test, type App } from "./app";

/** Rules tried on the past, for lists of senders, from macros and batches, and on sending. */

interface Rule {
  readonly id: number;
  readonly narrow: string;
  readonly list: string | null;
  readonly time: string;
  readonly macro: number | null;
}
const rulesOf = (app: App) => app.get<Rule[]>("/rules");
const send = async <T>(app: App, method: string, path: string, body: object): Promise<T> => {
  const response = await app.fetch(path, {
    method,
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
  expect(response.ok).toBe(true);
  return (await response.json()) as T;
};
const macroNamed = async (app: App, name: string) =>
  (await app.get<{ id: number; name: string }[]>("/macros")).find((macro) => macro.name === name)!.id;
const shares = (page: Page) =>
  page
    .getByRole("dialog")
    .locator("[data-all]")
    .allInnerTexts()
    .then((texts) => texts.map((text) => Number(text.replaceAll(",", ""))));

test("before it is switched on, a rule is tried on the past: what agrees, differs, was left; and it opens what differs", async ({
  page,
  app,
}) => {
  const { id: macro } = await send<{ id: number }>(app, "POST", "/macros", {
    name: "To weather",
    colour: "slate",
    steps: [{ do: "move", to: "Weather" }],
    settings: {},
  });
  await page.goto(`${app.address}/rules`);
  await page.getByLabel("Which mail", { exact: true }).fill("subject~forecast");
  await page.getByLabel("What is done", { exact: true }).selectOption(String(macro));
  await page.getByRole("button", { name: "On the past" }).click();
  const dialog = page.getByRole("dialog", { name: "To weather on the past" });
  await dialog.getByLabel("over").selectOption({ label: "all there is" });
  await expect(dialog.getByTestId("looked")).toContainText("it would have been for");
  const meant = await app.count("subject~forecast !mine");
  const there = await app.count("subject~forecast !mine folder=Weather");
  expect(there).toBeGreaterThan(5);
  await expect.poll(async () => (await shares(page))[0]).toBe(there);
  expect((await shares(page)).reduce((a, b) => a + b)).toBe(meant);
  // The months of the table add up to its first line.
  const rows = await dialog.locator("tbody tr").allInnerTexts();
  const agreed = rows.slice(1).map((row) => Number(row.split("\t")[1]!.replace("–", "0")));
  expect(agreed.reduce((a, b) => a + b, 0)).toBe(there);
  // By a longer look at what somebody else would decide: all mail, most of which was filed elsewhere.
  await page.keyboard.press("Escape");
  await page.getByLabel("Which mail", { exact: true }).fill("folder=Inbox");
  await page.getByRole("button", { name: "On the past" }).click();
  await expect(dialog.getByTestId("looked")).toContainText("it would have been for");
  const differing = dialog.getByLabel("Where you decided otherwise").getByRole("button");
  const subject = (await differing.first().innerText()).slice(0, 12);
  await differing.first().click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText(subject.trim());
});

test("a sender is added to a rule's list by a key, seen and taken out on the rules screen, and all of it is undone", async ({
  page,
  app,
}) => {
  const archive = await macroNamed(app, "Archive");
  const { id } = await send<Rule>(app, "POST", "/rules", { narrow: "", macro: archive, list: "Quiet ones" });
  const { id: adds } = await send<{ id: number }>(app, "POST", "/macros", {
    name: "To the quiet ones",
    colour: "plum",
    steps: [{ do: "add sender to rule", rule: "Quiet ones" }],
    settings: {},
  });
  const [deck] = await app.get<{ pads: { code: string; layer: string; macro: number }[] }[]>("/decks");
  const pads = deck!.pads.filter(({ code, layer }) => code !== "KeyG" || layer !== "plain");
  await send(app, "PATCH", "/decks/1", { pads: [...pads, { code: "KeyG", layer: "plain", macro: adds }] });
  await openBench(page, app);
  const message = await focusedId(page);
  const { from } = await app.get<{ from: { address: string } }>(`/messages/${message}`);
  await page.keyboard.press("g");
  await expect(notice(page)).toContainText("1 sender added to a rule");
  const listed = async () => (await app.get<{ addresses: string[] }>("/lists/quiet%20ones")).addresses;
  await expect.poll(listed).toEqual([from.address.toLowerCase()]);
  await page.keyboard.press("u");
  await expect.poll(listed).toEqual([]);
  await page.keyboard.press(".");
  await expect.poll(listed).toHaveLength(1);

  await page.goto(`${app.address}/rules`);
  await page.getByRole("button", { name: "only Quiet ones: 1" }).click();
  const dialog = page.getByRole("dialog", { name: "Senders of Quiet ones" });
  await expect(dialog.getByLabel("Sender to add")).toBeFocused();
  await page.keyboard.type("Second@post.example, third@post.example");
  await page.keyboard.press("Enter");
  await expect.poll(listed).toHaveLength(3);
  await dialog.getByRole("button", { name: "Take out third@post.example" }).click();
  await expect.poll(listed).toHaveLength(2);
  // What is in the inbox already: only theirs, however much else the condition means.
  await page.keyboard.press("Escape");
  const [inbox, theirs] = [
    await app.count("folder=Inbox"),
    await app.count(`folder=Inbox from=${from.address.toLowerCase()}`),
  ];
  await expect(page.locator("[data-rule]")).toContainText(`${theirs} in the inbox`);
  await page.getByRole("button", { name: "Run here" }).click();
  await expect.poll(() => app.count("folder=Inbox")).toBe(inbox - theirs);
  await page.getByRole("button", { name: "only Quiet ones: 2" }).click();
  await dialog.getByRole("button", { name: "For everybody again" }).click();
  await expect.poll(async () => (await rulesOf(app)).find((rule) => rule.id === id)!.list).toBeNull();
});

test("always do this: a rule from a macro with steps of its own, and one from a batch", async ({ page, app }) => {
  await page.goto(`${app.address}/workshop`);
  await page.getByRole("button", { name: "Always do this…" }).click();
  const dialog = page.getByRole("dialog", { name: "Always do this" });
  await dialog.getByLabel("Which mail").fill("from~ferry");
  await dialog.getByLabel("What is done").selectOption({ label: "steps of its own…" });
  await dialog.getByRole("button", { name: "Steps" }).click();
  const steps = page.getByRole("dialog", { name: "Steps of For from~ferry" });
  await steps.getByRole("button", { name: "Add a step" }).click();
  await page.keyboard.type("archive");
  await page.keyboard.press("Enter");
  await expect(steps).toContainText("Archive");
  await steps.getByRole("button", { name: "Done" }).click();
  await dialog.getByRole("button", { name: "Make the rule" }).click();
  await expect.poll(async () => (await rulesOf(app)).map(({ narrow }) => narrow)).toEqual(["from~ferry"]);
  const [rule] = await rulesOf(app);
  const macros = await app.get<{ id: number; name: string; steps: unknown[] }[]>("/macros");
  expect(macros.find(({ id }) => id === rule!.macro)).toMatchObject({
    name: "For from~ferry",
    steps: [{ do: "archive" }],
  });

  // From a batch: its condition is there, and the macro is asked; its hours are for it alone, and off at first.
  await send(app, "POST", "/batches", { name: "Old ones", narrow: "unread age>30d" });
  await openBench(page, app);
  const open = async () => {
    await page.keyboard.press(";");
    await page.keyboard.type("old ones");
    await page.keyboard.press("Enter");
    await expect(page.getByTestId("count")).toBeVisible();
    await page.keyboard.press("Control+s");
  };
  await open();
  await page.getByRole("dialog").getByRole("button", { name: "A rule for it…" }).click();
  const forIt = page.getByRole("dialog", { name: "A rule for this mail" });
  await expect(forIt.getByLabel("Which mail")).toHaveValue("unread age>30d");
  await forIt.getByLabel("What is done").selectOption({ label: "Archive" });
  await forIt.getByRole("button", { name: "Make the rule" }).click();
  await expect
    .poll(async () => (await rulesOf(app)).map(({ narrow }) => narrow))
    .toEqual(["from~ferry", "unread age>30d"]);
  await expect(forIt).toBeHidden();
  await open();
  await page.getByRole("dialog").getByRole("button", { name: "Hours for it" }).click();
  await expect(page.getByLabel("Hours 1: which mail waits")).toHaveValue("unread age>30d");
  await expect(page.getByLabel("Hours 1 are on")).not.toBeChecked();
});

test("a letter to somebody outside is asked about once more, held longer, and can be called back", async ({
  page,
  app,
}) => {
  await send(app, "POST", "/rules", {
    narrow: "subject~winter",
    macro: null,
    time: "sending",
    outside: true,
    holdMinutes: 20,
    look: "It goes outside. Is that meant?",
  });
  await page.goto(`${app.address}/rules`);
  await page.getByLabel("Rule 1: to more people than").fill("0");
  await page.keyboard.press("Enter");
  await expect(notice(page)).toContainText("Changed rule 1");
  await openBench(page, app);
  const outbox = await app.count("folder=Outbox");
  await page.keyboard.press("n");
  await expect(page.getByRole("region", { name: "Composer" })).toHaveAttribute("data-ready", "true");
  await page.keyboard.type("silent.warden@larch.example");
  await page.keyboard.press("Enter");
  await page.getByLabel("subject").fill("The winter room");
  await page.keyboard.press("Tab");
  await page.keyboard.type("It is open from Friday on.");
  await page.keyboard.press("Control+Enter");
  const alert = page.getByRole("alert").filter({ hasText: "It goes outside. Is that meant?" });
  await expect(alert).toBeVisible();
  expect(await app.count("folder=Outbox")).toBe(outbox);
  await page.keyboard.press("Control+Enter");
  await expect.poll(() => app.count("folder=Outbox")).toBe(outbox + 1);
  const [held] = await app.get<{ at: string }[]>("/outgoing");
  expect(Date.parse(held!.at) - Date.now()).toBeGreaterThan(15 * 60_000);
  await page.keyboard.press("u");
  await expect.poll(() => app.count("folder=Outbox")).toBe(outbox);
});

test("what is done again and again is offered as a rule, with what speaks for it; a no lasts, and is taken back", async ({
  page,
  app,
}) => {
  const { rows } = await app.get<{ rows: { id: number; from: { address: string } }[] }>(
    "/messages?narrow=folder%3DInbox&limit=300",
  );
  const bySender = new Map<string, number[]>();
  for (const { id, from } of rows) bySender.set(from.address, [...(bySender.get(from.address) ?? []), id]);
  const [address, ids] = [...bySender].sort(([, a], [, b]) => b.length - a.length)[0]!;
  expect(ids.length).toBeGreaterThan(6);
  const macro = await macroNamed(app, "Archive");
  for (const id of ids.slice(0, 7))
    await send(app, "POST", "/runs", { id: crypto.randomUUID(), macro, target: { ids: [id] } });
  const offers = async () =>
    (await app.get<{ rules: { narrow: string; messages: number }[] }>("/found")).rules.map(({ narrow }) => narrow);
  await expect.poll(async () => (await offers()).length).toBe(1);
  const [narrow] = await offers();
  expect(narrow).toContain(/^list=/.test(narrow!) ? "list=" : address.slice(address.indexOf("@") + 1));
  await page.goto(`${app.address}/rules`);
  const offer = page.locator("[data-found]");
  await expect(offer).toContainText("goes to Archive: 7 of 7 by hand, mostly by Archive; 7 keys saved");
  await offer.getByRole("button", { name: "Not this" }).click();
  await expect(offer).toHaveCount(0);
  await page.getByRole("heading", { name: "Rules" }).click();
  await page.keyboard.press("u");
  await expect(offer).toBeVisible();
  await offer.getByRole("button", { name: "Make it a rule" }).click();
  await expect(offer).toHaveCount(0);
  await expect.poll(async () => (await rulesOf(app)).map((rule) => rule.narrow)).toEqual([narrow]);
});

test("the inbox unfolds by one's own addresses, each with what came to it", async ({ page, app }) => {
  await send(app, "POST", "/identities", { name: "Committee", address: "committee@larchhuts.example" });
  await openBench(page, app);
  const rack = page.getByRole("navigation", { name: "Places" });
  await rack.getByRole("button", { name: "Unfold Inbox" }).click();
  for (const { address } of await app.get<{ address: string }[]>("/identities")) {
    const count = await app.count(`folder=Inbox !deferred via=${address}`);
    await rack.getByRole("button", { name: new RegExp(`^${address}`) }).click();
    await expect(page.getByTestId("count")).toHaveText(new RegExp(`^${count} `));
  }
  expect(await app.count("folder=Inbox !deferred via=bookings@larchhuts.example")).toBeGreaterThan(10);
});

test("a script is seen as rules as it is pasted, taken in switched off, and handed out again", async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/rules`);
  await page.getByRole("button", { name: "Sieve…" }).click();
  await page.getByRole("menuitem", { name: "Take a script in" }).click();
  const dialog = page.getByRole("dialog", { name: "Take a script in" });
  await page.keyboard.insertText('require "fileinto";\nif header :contains "subject" "ferry" { fileinto "Ferries" }');
  await expect(dialog.getByRole("alert")).toContainText('Line 2, column 60: ";" is expected here');
  await expect(dialog.getByRole("button", { name: "Take it in" })).toBeDisabled();
  await page.keyboard.press("Backspace");
  await page.keyboard.insertText('; stop; }\nredirect "ines@larch.example";\n');
  await expect(dialog.getByRole("list", { name: "Rules of the script" })).toContainText("move Ferries · stop here");
  await expect(dialog.getByLabel("What is left")).toContainText("Line 3: Nothing here does what “redirect” does.");
  await expect(dialog).toContainText("New folders: Ferries");
  const before = (await rulesOf(app)).length;
  await dialog.getByRole("button", { name: "Take in 1 rule" }).click();
  await expect(dialog).toBeHidden();
  await expect(notice(page)).toContainText("Took in 1 rule, switched off");
  const row = page.getByRole("listitem", { name: `Rule ${before + 1}`, exact: true });
  await expect(row).toContainText('not taken in: redirect "ines@larch.example";');
  await expect(row.getByRole("checkbox", { name: `Rule ${before + 1} is on` })).not.toBeChecked();
  // The remark is changed where it stands, and the change is taken back.
  await row.getByRole("button", { name: "change the remark" }).click();
  await page.keyboard.press("Control+a");
  await page.keyboard.insertText("ask Ines first");
  await page.keyboard.press("Tab");
  const remarks = async () => (await app.get<{ remark: string | null }[]>("/rules")).at(-1)!.remark;
  await expect.poll(remarks).toBe("ask Ines first");
  await expect(row).toContainText("ask Ines first");
  await row.getByRole("checkbox", { name: `Rule ${before + 1} is on` }).check();
  await page.getByRole("button", { name: "Sieve…" }).click();
  await page.getByRole("menuitem", { name: "These rules as a script" }).click();
  const out = page.getByRole("dialog", { name: "These rules as a script" });
  await expect(out.getByLabel("The script")).toHaveValue(
    new RegExp(
      String.raw`# remark: ask Ines first\nif header :contains "subject" "ferry" \{\n  fileinto "Ferries";\n  stop;\n\}`,
    ),
  );
  const [saved] = await Promise.all([
    page.waitForEvent("download"),
    out.getByRole("button", { name: "Save it as a file" }).click(),
  ]);
  expect(saved.suggestedFilename()).toBe("rules.sieve");
});
