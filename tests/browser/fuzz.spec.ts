import { gate } from "../fixtures/at-once";
import { HOSTILE, HOSTILE_PARTS, sampleOf, withEachPart, type Schemas } from "../fixtures/hostile";
import { expect, test } from "./app";

interface Operation {
  readonly parameters: readonly { readonly name: string; readonly in: "path" | "query" }[];
  readonly requestBody?: { readonly content: Readonly<Record<string, { readonly schema: object }>> };
}
interface Description {
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly schemas: Schemas };
}

/** Bodies of steps as people write them, so that what is inside a step is met as well. */
const RUN = {
  id: "5b1c0000-0000-4000-8000-000000000002",
  macro: {
    name: "Fuzz",
    steps: [
      { do: "flag", start: "+1d", due: "tomorrow 9", note: "beds" },
      { do: "if", narrow: "unread", then: [{ do: "label", add: "Invoice" }], else: [{ do: "move", to: "Inbox" }] },
      {
        do: "make task",
        title: { pattern: "(?<x>a)", in: "subject", group: "x", else: "none" },
        due: "+2d",
        estimate: 5,
      },
      { do: "defer", until: "next mon" },
      { do: "ask", name: "which", kind: "text", prompt: "Which?" },
      { do: "note", text: { answer: "which" } },
    ],
    settings: { for: "from~a", confirm: 5 },
  },
  target: { narrow: "unread", order: "oldest", except: [1], through: 5 },
  answers: { "ask:which": "this" },
  dry: true,
  at: "2026-11-24T12:00:00Z",
};

const AT_ONCE = 6;

const filled = (path: string, part: string) => path.replace(/\{\w+\}/g, part);
const inAnswer = async (response: Response) => {
  // Streams that never end are left after their head.
  if (response.headers.get("content-type")?.startsWith("text/event-stream")) await response.body?.cancel();
  else await response.arrayBuffer();
  return response.status;
};

test("no request, however it is made, ends in a fault of the server's", async ({ app }) => {
  test.setTimeout(600_000);
  const { paths, components } = await app.get<Description>("/openapi.json");
  const faults = new Set<string>();
  let asked = 0;
  const { enter, empty } = gate(AT_ONCE);
  const ask = async (method: string, path: string, init: RequestInit, what: string) => {
    // Whoever is out is refused everywhere: nothing more would be asked.
    if (method === "delete" && path === "/sign-in") return;
    asked++;
    await enter(async () => {
      const status = await inAnswer(await app.fetch(path, { method: method.toUpperCase(), ...init }));
      if (status >= 500) faults.add(`${method} ${path.slice(0, 120)} ${what.slice(0, 120)}: ${status}`);
    });
  };
  const send = (method: string, path: string, body: unknown) => {
    const text = JSON.stringify(body);
    return ask(method, path, { body: text, headers: { "content-type": "application/json" } }, text);
  };
  for (const [path, operations] of Object.entries(paths))
    for (const [method, operation] of Object.entries(operations)) {
      for (const part of HOSTILE_PARTS) {
        if (operation.parameters.some((parameter) => parameter.in === "path"))
          await ask(method, filled(path, part), {}, "path");
        for (const { name } of operation.parameters.filter((parameter) => parameter.in === "query"))
          await ask(method, `${filled(path, "1")}?${name}=${part}`, {}, "query");
      }
      const schema = operation.requestBody?.content["application/json"]?.schema;
      if (!schema) continue;
      const body = path === "/runs" ? RUN : sampleOf(schema, components.schemas);
      const place = filled(path, "1");
      for (const hostile of HOSTILE)
        for (const mutated of withEachPart(body, hostile)) await send(method, place, mutated);
      for (const text of ["", "{", "[]", "\u0000", '"\ud800"', "nul", "[".repeat(100_000)])
        await ask(method, place, { body: text, headers: { "content-type": "application/json" } }, text);
    }
  // The sending half: forms, and files.
  for (const part of HOSTILE_PARTS)
    await ask(
      "post",
      "/export",
      { body: `ids=${part}&format=${part}`, headers: { "content-type": "application/x-www-form-urlencoded" } },
      part,
    );
  await ask("post", "/export", { body: "x", headers: { "content-type": "multipart/form-data; boundary=y" } }, "form");
  await empty();
  expect([...faults]).toEqual([]);
  expect(asked).toBeGreaterThan(5000);
  // And it still does what it is for.
  expect(await app.count("folder=Inbox")).toBeGreaterThan(0);
});

test("a body that is too large is refused while it comes", async ({ app }) => {
  const most = 20 * 1024 * 1024;
  for (const [method, path] of [
    ["POST", "/macros"],
    ["POST", "/runs"],
    ["PATCH", "/settings"],
    ["POST", "/packs"],
  ] as const) {
    // Without a length announced, as a stream would come: the server has to count for itself.
    let sent = 0;
    const body = new ReadableStream({
      pull(controller) {
        if (sent >= most) return controller.close();
        sent += 64 * 1024;
        controller.enqueue(new Uint8Array(64 * 1024).fill(32));
      },
    });
    const answer = await app
      .fetch(path, {
        method,
        body,
        headers: { "content-type": "application/json" },
        duplex: "half",
      } as RequestInit)
      .then(
        async (response) => ({
          status: response.status,
          detail: ((await response.json()) as { detail: string }).detail,
        }),
        // The server may hang up on who goes on sending.
        () => null,
      );
    if (answer) expect(answer).toMatchObject({ status: 413, detail: expect.stringContaining("may have at most") });
    expect(sent).toBeLessThan(most);
  }
});

test("an expression has so many conditions, and says which is one too many", async ({ app }) => {
  const narrow = Array.from({ length: 120 }, (_, i) => `w${i}`).join("|");
  const response = await app.fetch(`/messages?narrow=${encodeURIComponent(narrow)}`);
  expect(response.status).toBe(400);
  const { issues } = (await response.json()) as { issues: { text: string; from: number; to: number }[] };
  expect(issues[0]).toMatchObject({ text: expect.stringContaining("100 conditions"), to: narrow.length });
  expect(narrow.slice(issues[0]!.from)).toMatch(/^w100\|/);
});
