import { describe, expect, test } from "vitest";
import type { DraftPatch, DraftShape, ProblemShape, RunAnswer } from "@/core/api";
import { docOfText, type Doc } from "@/core/letter";
import { Away, Failed, Refused } from "./api";
import { LetterQueue, type Letter, type LettersHost } from "./letters";

const uuid = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, "0")}`;
const problem = (type: string, detail: string): ProblemShape => ({ type, title: "No", status: 409, detail });
const typed = (text: string): Doc => docOfText(text);
const letter = (n: number, more: Partial<Letter> = {}): Letter => ({
  key: uuid(n),
  beside: uuid(n + 500),
  kind: "new",
  answers: null,
  run: null,
  draft: null,
  version: 0,
  fields: {},
  body: null,
  sending: null,
  ...more,
});

type Fault = "lost before" | "lost after" | "breaks" | null;

/** A server of its own: drafts, versions and sendings as the real one keeps them; faults come as they are told. */
class Server {
  readonly drafts = new Map<number, DraftShape>();
  readonly begun = new Map<string, number>();
  readonly sent: { draft: number; id: string; body: Doc; subject: string }[] = [];
  readonly left: number[] = [];
  readonly asked: string[] = [];
  faults: Fault[] = [];

  private async under<T>(what: string, work: () => T): Promise<T> {
    this.asked.push(what);
    const fault = this.faults.shift() ?? null;
    if (fault === "lost before") throw new Away("away");
    if (fault === "breaks") throw new Failed("It broke.");
    const answer = work();
    if (fault === "lost after") throw new Away("away");
    return answer;
  }

  put(id: number, more: Partial<DraftShape> = {}): DraftShape {
    const draft = { id, kind: "new", subject: "", body: typed(""), version: 1, ...more } as DraftShape;
    this.drafts.set(id, draft);
    return draft;
  }

  private find(id: number): DraftShape {
    const draft = this.drafts.get(id);
    if (!draft || this.sent.some((one) => one.draft === id))
      throw new Refused(problem("about:blank", "Not a draft any more"));
    return draft;
  }

  begin = (body: object) =>
    this.under("begin", () => {
      const { id: key, run, ...rest } = body as { id: string; run?: string } & Partial<DraftShape>;
      const known = this.begun.get(run !== undefined && this.begun.has(run) ? run : key);
      if (known !== undefined) return this.drafts.get(known)!;
      if (rest.answers === 404) throw new Refused(problem("about:blank", "There is no message 404."));
      const draft = this.put(this.drafts.size + 1, rest);
      this.begun.set(key, draft.id);
      return draft;
    });
  read = (id: number) => this.under("read", () => this.find(id));
  patch = (id: number, { version, left, ...fields }: DraftPatch) =>
    this.under("patch", () => {
      const old = this.find(id);
      if (old.version !== version) throw new Refused(problem("urn:tachyne:changed-elsewhere", "Changed elsewhere"));
      const next = { ...old, ...fields, version: version + 1 } as DraftShape;
      this.drafts.set(id, next);
      if (left) this.left.push(id);
      return next;
    });
  send = (id: number, body: object) =>
    this.under("send", () => {
      const { id: run, version } = body as { id: string; version: number };
      if (!this.sent.some((one) => one.id === run)) {
        const draft = this.find(id);
        if (draft.version !== version) throw new Refused(problem("urn:tachyne:changed-elsewhere", "Changed"));
        this.sent.push({ draft: id, id: run, body: draft.body, subject: draft.subject });
      }
      return { entry: null, changed: 1, skipped: [], asks: [], waiting: [] } as RunAnswer;
    });
}

function play(server = new Server(), more: Partial<LettersHost> = {}) {
  const told: string[] = [];
  const waits: number[] = [];
  let kept: readonly Letter[] = [];
  const queue = new LetterQueue(
    {
      begin: server.begin,
      read: server.read,
      patch: server.patch,
      send: server.send,
      isRunWaiting: () => false,
      keep: async (letters) => void (kept = structuredClone(letters) as Letter[]),
      pause: async () => {},
      ...more,
    },
    {
      stored: ({ draft }) => told.push(`stored ${draft}`),
      sent: ({ draft }) => told.push(`sent ${draft}`),
      beside: () => told.push("beside"),
      refused: ({ draft }, why) => told.push(`refused ${draft}: ${why}`),
      waiting: (count) => waits.push(count),
    },
  );
  const settled = async () => {
    for (let i = 0; i < 200; i++) await Promise.resolve();
  };
  return { server, queue, told, waits, settled, kept: () => kept };
}

const plain = (doc: Doc): string => JSON.stringify(doc.content);

describe("letters on their way", () => {
  test("none is said to wait before it is kept: a window closed at that moment would lose it", async () => {
    const server = new Server();
    server.faults = Array.from({ length: 50 }, () => "lost before" as const);
    let write: () => void = () => {};
    const { queue, waits, settled } = play(server, {
      keep: () => new Promise<void>((resolve) => (write = resolve)),
      pause: () => new Promise<void>(() => {}),
    });
    let isKept = false;
    void queue.add(letter(1, { body: typed("Six beds.") })).then(() => (isKept = true));
    await settled();
    expect([isKept, ...waits]).toEqual([false]);
    write();
    await settled();
    expect([isKept, ...waits]).toEqual([true, 1]);
  });

  test("a letter never begun is begun, holds what was typed above what the server puts there, and is sent", async () => {
    const server = new Server();
    const begin = server.begin;
    const signed: Doc = { type: "doc", content: [{ type: "paragraph" }, ...typed("The hut office").content] };
    server.begin = (body) => begin({ ...body, body: signed });
    const { queue, told, settled, kept } = play(server);
    queue.add(
      letter(1, { body: typed("Six beds."), fields: { subject: "Beds" }, sending: { id: uuid(9), afterwards: null } }),
    );
    expect(queue.isSending).toBe(true);
    await settled();
    expect(told).toEqual(["sent 1"]);
    expect(server.sent).toHaveLength(1);
    expect(plain(server.sent[0]!.body)).toBe(
      plain({ type: "doc", content: [...typed("Six beds.").content, ...typed("The hut office").content] }),
    );
    expect(server.sent[0]!.subject).toBe("Beds");
    expect(queue.isSending).toBe(false);
    expect(kept()).toEqual([]);
  });

  test.each([[[]], [["lost after"]], [["lost before", null, "lost after"]]] as const)(
    "sent before its draft was read here, it stands above what is in that, and is sent as it (faults: %j)",
    async (faults) => {
      const server = new Server();
      const signed: Doc = { type: "doc", content: [{ type: "paragraph" }, ...typed("The hut office").content] };
      server.put(7, { body: signed, version: 3 });
      server.faults = [...faults];
      const { queue, told, settled } = play(server);
      queue.add(letter(1, { draft: 7, body: typed("Six beds."), sending: { id: uuid(9), afterwards: null } }));
      await settled();
      expect(told).toEqual(["sent 7"]);
      expect(server.sent.map(({ body }) => plain(body))).toEqual([
        plain({ type: "doc", content: [...typed("Six beds.").content, ...typed("The hut office").content] }),
      ]);
      expect([...server.drafts.keys()]).toEqual([7]);
    },
  );

  test("whatever single answer or request is lost, it is begun, stored and sent once", async () => {
    for (const fault of ["lost before", "lost after", "breaks"] as const)
      for (let nth = 0; nth < 3; nth++) {
        const server = new Server();
        server.faults = [...Array<Fault>(nth).fill(null), fault];
        const { queue, told, settled } = play(server);
        queue.add(letter(1, { body: typed("Once."), sending: { id: uuid(9), afterwards: null } }));
        await settled();
        expect(told, `${fault} at ${nth}`).toEqual(["sent 1"]);
        expect(server.drafts.size).toBe(1);
        expect(server.sent.map(({ body }) => plain(body))).toEqual([plain(typed("Once."))]);
      }
  });

  test("a letter that is only left is stored, as one nobody goes on writing", async () => {
    const server = new Server();
    server.put(7, { version: 4, subject: "old" });
    const { queue, told, settled } = play(server);
    queue.add(letter(1, { draft: 7, version: 4, fields: { subject: "new" } }));
    await settled();
    expect(told).toEqual(["stored 7"]);
    expect(server.drafts.get(7)!.subject).toBe("new");
    expect(server.left).toEqual([7]);
    expect(server.sent).toEqual([]);
  });

  test("what the server has already is not stored again before it is sent", async () => {
    const server = new Server();
    server.put(7, { version: 4 });
    const { queue, settled } = play(server);
    queue.add(letter(1, { draft: 7, version: 4, sending: { id: uuid(9), afterwards: 3 } }));
    await settled();
    expect(server.asked).toEqual(["send"]);
  });

  test("a draft changed elsewhere keeps what is there; what was written here stands beside it, unsent", async () => {
    const server = new Server();
    server.put(7, { version: 5, subject: "theirs" });
    const { queue, told, settled } = play(server);
    queue.add(
      letter(1, { draft: 7, version: 4, fields: { subject: "mine" }, sending: { id: uuid(9), afterwards: null } }),
    );
    await settled();
    expect(told).toEqual(["beside", "stored 2"]);
    expect(server.drafts.get(7)!.subject).toBe("theirs");
    expect(server.drafts.get(2)!.subject).toBe("mine");
    expect(server.sent).toEqual([]);
  });

  test("the message it answers may be gone: it becomes a letter of its own", async () => {
    const { server, queue, told, settled } = play();
    queue.add(letter(1, { kind: "reply", answers: 404, body: typed("Still here.") }));
    await settled();
    expect(told).toEqual(["stored 1"]);
    expect(plain(server.drafts.get(1)!.body)).toBe(plain(typed("Still here.")));
  });

  test("it waits for the run that begins it, and goes into the draft of that", async () => {
    let runs = ["run a"];
    const server = new Server();
    server.put(30, { version: 2 });
    let turns = 0;
    const { queue, told, settled } = play(server, {
      isRunWaiting: (run) => runs.includes(run),
      pause: async () => {
        if (++turns === 3) {
          // The window sees that it is written; what it began, nobody has told it yet.
          runs = [];
          server.begun.set("run a", 30);
          expect(queue.isFor("run a")).toBe(true);
        }
      },
    });
    expect(queue.isFor("run a")).toBe(false);
    queue.add(letter(1, { kind: "reply", answers: 5, run: "run a", body: typed("Yes.") }));
    await settled();
    expect(turns).toBe(3);
    expect(told).toEqual(["stored 30"]);
    expect(server.drafts.size).toBe(1);
    expect(plain(server.drafts.get(30)!.body)).toBe(plain(typed("Yes.")));
    // Told of it only now, nobody wants it opened.
    expect([queue.isFor("run a"), queue.isFor("run b")]).toEqual([true, false]);
  });

  test("a run that began nothing leaves it to begin by itself", async () => {
    const { server, queue, told, settled } = play();
    queue.add(letter(1, { kind: "reply", answers: 5, run: "run a", body: typed("Yes.") }));
    await settled();
    expect(told).toEqual(["stored 1"]);
    expect(server.drafts.size).toBe(1);
  });

  test("what is refused is told, and holds up nothing behind it", async () => {
    const server = new Server();
    const send = server.send;
    server.put(7, { version: 1 });
    server.put(8, { version: 1 });
    server.send = (id, body) =>
      id === 7 ? Promise.reject(new Refused(problem("about:blank", "Nobody to send it to."))) : send(id, body);
    const { queue, told, settled, kept } = play(server);
    queue.add(
      letter(1, { draft: 7, version: 1, sending: { id: uuid(9), afterwards: null } }),
      letter(2, { draft: 8, version: 1, sending: { id: uuid(10), afterwards: null } }),
    );
    await settled();
    expect(told).toEqual(["refused 7: Nobody to send it to.", "sent 8"]);
    expect(kept()).toEqual([]);
  });

  test("a server that fails each time is asked three times for a letter, then left in peace", async () => {
    const server = new Server();
    server.faults = Array<Fault>(9).fill("breaks");
    const { queue, told, settled } = play(server);
    queue.add(letter(1));
    await settled();
    expect(server.asked).toHaveLength(3);
    expect(told).toEqual(["refused null: It broke."]);
  });

  test("the last one to be sent is called back while it waits; one that is only stored is not", async () => {
    const server = new Server();
    let release: () => void = () => {};
    const gate = new Promise<void>((resolve) => (release = resolve));
    server.faults = ["lost before"];
    const { queue, told, settled, kept } = play(server, { pause: () => gate });
    queue.add(
      letter(1, { body: typed("a"), sending: { id: uuid(9), afterwards: null } }),
      letter(2, { body: typed("b"), sending: { id: uuid(10), afterwards: null } }),
      letter(3, { body: typed("c") }),
    );
    await settled();
    expect((await queue.recall())?.key).toBe(uuid(2));
    expect(kept().map(({ key }) => key)).toEqual([uuid(1), uuid(3)]);
    expect(queue.has(uuid(2))).toBe(false);
    release();
    await settled();
    expect(told).toEqual(["sent 1", "stored 2"]);
    expect(await queue.recall()).toBeNull();
  });

  test("letters being written are kept and left alone; stored ones are let go", async () => {
    const { server, queue, settled, kept } = play();
    queue.keepOpen(letter(1, { body: typed("half a sent") }));
    queue.keepOpen(letter(1, { body: typed("half a sentence") }));
    queue.keepOpen(letter(2));
    await settled();
    expect(kept().map(({ body }) => body && plain(body))).toEqual([plain(typed("half a sentence")), null]);
    expect(queue.has(uuid(1))).toBe(true);
    expect(queue.isSending).toBe(false);
    expect(server.asked).toEqual([]);
    queue.drop(uuid(2));
    queue.add(letter(1, { body: typed("half a sentence and more") }));
    await settled();
    expect(kept()).toEqual([]);
    expect(server.drafts.size).toBe(1);
  });
});
