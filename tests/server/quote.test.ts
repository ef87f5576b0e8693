import { randomUUID } from "node:crypto";
import { simpleParser } from "mailparser";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  changeDraft,
  changeSettings,
  createDraft,
  createTemplate,
  listMessages,
  readDraftFile,
  readDraftOf,
  readMessage,
  readRaw,
  runMacro,
  sendDraft,
} from "@/server/act";
import { docOfText, quotesOf } from "@/core/letter";
import type { Step } from "@/core/macro";
import { sendDue } from "@/server/jobs";
import { freshDatabase, type Fresh } from "./database";
import { serviceOf } from "./service";

let fresh: Fresh;
let asked: number;
const MAP = "iVBORw0KGgo=";
const PART = "--b\r\nContent-Type: ";

beforeAll(async () => {
  fresh = await freshDatabase();
  const { arrives } = await serviceOf(fresh);
  await changeSettings(fresh.context, { holdSeconds: 0 });
  asked = await arrives(
    "Fay <silent.fay@reed.example>",
    "The way up",
    'MIME-Version: 1.0\r\nContent-Type: multipart/related; boundary="b"\r\n',
    `${PART}text/html; charset=utf-8\r\n\r\n<html><head><title>t</title><style>p{color:red}</style></head><body onload="x()">
<p style="color:blue">Which <b>way</b>?</p><img src="cid:map@reed.example" alt="map"><img src="cid:gone@reed.example">
<script>alert(1)</script><form action="https://evil.example"><input name="a"></form><a href="javascript:x()">here</a>
<iframe src="https://evil.example"></iframe></body></html>\r\n${PART}image/png; name="map.png"\r\nContent-ID: <map@reed.example>\r\nContent-Transfer-Encoding: base64\r\nContent-Disposition: inline\r\n\r\n${MAP}\r\n${PART}image/png; name="other.png"\r\nContent-ID: <other@reed.example>\r\nContent-Transfer-Encoding: base64\r\n\r\n${MAP}\r\n--b--\r\n`,
  );
});
afterAll(() => fresh.drop());

const run = (steps: Step[], ids: number[]) =>
  runMacro(fresh.context, { id: randomUUID(), macro: { name: "test", steps }, target: { ids }, answers: {} });
const sourceOf = async (id: number) => simpleParser(Buffer.from(await readRaw(fresh.context, id)));
const send = async (id: number) => {
  await sendDraft(fresh.context, id, { id: randomUUID(), version: null, afterwards: null });
  await sendDue(fresh.db, new Date(Date.now() + 1000));
};

function holdsQuote({ html, attachments, text }: Awaited<ReturnType<typeof sourceOf>>): void {
  expect(html).toContain("Which <b>way</b>?");
  expect(html).toContain("color:blue");
  // The parser puts pictures it finds by their id into the text.
  expect(html).toContain(`data:image/png;base64,${MAP}`);
  expect(html).not.toMatch(/script|alert|onload|<form|<input|iframe|evil|gone@|color:red|<title/);
  expect(text).toContain("> Which way?");
  expect(attachments.map(({ filename, related }) => [filename, related])).toEqual([["map.png", true]]);
}

describe("what an answer quotes", () => {
  test("keeps the look of the original and the pictures it shows, and nothing that runs or asks", async () => {
    const draft = await createDraft(fresh.context, { kind: "reply", answers: asked });
    expect(draft.files.map(({ name, cid }) => [name, cid])).toEqual([["map.png", "map@reed.example"]]);
    const file = await readDraftFile(fresh.context, draft.id, draft.files[0]!.id);
    expect(Buffer.from(file.data).toString("base64")).toBe(MAP);
    await send(draft.id);
    holdsQuote(await sourceOf(draft.id));
  });

  test("is the same in what a macro sends by itself", async () => {
    await createTemplate(fresh.context, { name: "Way", folder: "", subject: "", body: docOfText("Left, then up.") });
    await run([{ do: "reply", template: "Way", goes: "outbox" }], [asked]);
    await sendDue(fresh.db, new Date(Date.now() + 1000));
    const narrow = 'folder="Sent"';
    const { rows } = await listMessages(fresh.context, { narrow, order: "newest", limit: 1, after: null });
    expect(rows[0]?.preview).toMatch(/^Left, then up\./);
    holdsQuote(await sourceOf(rows[0]!.id));
  });

  test("takes its pictures along when it is left out", async () => {
    const draft = await createDraft(fresh.context, { kind: "reply", answers: asked });
    expect(quotesOf(draft.body)).toHaveLength(1);
    const body = docOfText("See the map on our page.");
    await changeDraft(fresh.context, draft.id, { version: draft.version, body });
    await send(draft.id);
    const { attachments, text } = await sourceOf(draft.id);
    expect(attachments).toEqual([]);
    expect(text?.trim()).toBe("See the map on our page.");
  });
});

test("a label put on a letter while it is written stays on it when it has gone", async () => {
  const draft = await createDraft(fresh.context, { kind: "reply", answers: asked });
  expect(draft.labels).toEqual([]);
  await run([{ do: "label", add: "Invoice" }], [draft.id]);
  expect((await readDraftOf(fresh.context, draft.id)).labels).toEqual(["Invoice"]);
  await send(draft.id);
  expect(await readMessage(fresh.context, draft.id)).toMatchObject({ folder: "Sent", labels: ["Invoice"] });
});
