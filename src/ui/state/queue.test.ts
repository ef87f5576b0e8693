import { describe, expect, test } from "vitest";
import type { ProblemShape, RunAnswer } from "@/core/api";
import { runId, type RunId } from "@/core/id";
import { Away, Failed, Refused } from "./api";
import type { Decision } from "./decision";
import { SendQueue, type Kept, type QueueEvents, type QueueHost, type SetAside } from "./queue";

const id = (n: number): RunId => runId(`00000000-0000-4000-8000-${String(n).padStart(12, "0")}`);
const run = (n: number): Decision => ({
  kind: "run",
  id: id(n),
  at: `2026-11-24T12:00:${String(n).padStart(2, "0")}.000Z`,
  macro: { name: `run ${n}`, steps: [] },
  ids: [n],
  answers: {},
  about: "",
});
const undo = (n: number, of: number): Decision => ({ kind: "undo", id: id(n), of: id(of), name: "x", at: run(n).at });
const ANSWER = { entry: null, changed: 0, skipped: [], asks: [], waiting: [] } as RunAnswer;
const refusal = (status = 422): ProblemShape => ({ type: "about:blank", title: "No", status, detail: "It cannot be." });

type Say = "yes" | "away" | "full" | "fails" | "no" | "odd";

/** A server that says what it is told to, and a browser that keeps what it is given; pauses take no time. */
function play(says: (decision: Decision, nth: number) => Say, more: Partial<QueueHost & QueueEvents> = {}) {
  const sent: string[] = [];
  const kept: Kept[] = [];
  const pauses: number[] = [];
  const answered: string[] = [];
  const links: string[] = [];
  const withdrawn: string[][] = [];
  let aside: readonly SetAside[] = [];
  const counts = new Map<string, number>();
  let lastPause: () => void = () => {};
  const host: QueueHost = {
    send: async (decision) => {
      sent.push(decision.id);
      const nth = (counts.get(decision.id) ?? 0) + 1;
      counts.set(decision.id, nth);
      switch (says(decision, nth)) {
        case "away":
          throw new Away("away");
        case "full":
          throw new Away("away", "The disk is full.");
        case "fails":
          throw new Failed("It broke.");
        case "no":
          throw new Refused(refusal());
        case "odd":
          throw new TypeError("unreadable");
        case "yes":
          return ANSWER;
      }
    },
    isWell: async () => true,
    keep: async (what) => void kept.push(structuredClone(what)),
    pause: async (ms) => {
      pauses.push(ms);
      lastPause();
    },
    ...more,
  };
  const queue = new SendQueue(host, {
    answered: (decision) => void answered.push(decision.id),
    undone: (decisions) => {
      withdrawn.push(decisions.map((decision) => decision.id));
      return true;
    },
    link: (link, why) => void links.push(why === null ? link : `${link}: ${why}`),
    aside: (now) => void (aside = now),
    unkept: () => {},
    ...more,
  });
  return {
    queue,
    sent,
    kept,
    pauses,
    answered,
    links,
    withdrawn,
    aside: () => aside.map(({ decision, why }) => [decision.id, why]),
    onPause: (work: () => void) => void (lastPause = work),
  };
}

/** Until nothing is left to do: every step of the queue is a settled promise away. */
const settled = () => new Promise<void>((resolve) => setTimeout(resolve, 0));

describe("the queue of decisions", () => {
  test("sends one after another, each once, in order", async () => {
    const p = play(() => "yes");
    p.queue.add(run(1));
    p.queue.add(run(2), run(3));
    await settled();
    expect(p.sent).toEqual([id(1), id(2), id(3)]);
    expect(p.answered).toEqual(p.sent);
    expect(p.kept.at(-1)).toEqual({ waiting: [], aside: [] });
  });

  test("waits for a server that is away, ever longer, and goes on where it was", async () => {
    const p = play((_, nth) => (nth < 8 ? "away" : "yes"));
    p.queue.add(run(1), run(2));
    await settled();
    expect(p.answered).toEqual([id(1), id(2)]);
    expect(p.pauses.slice(0, 7)).toEqual([300, 600, 1000, 2000, 3000, 3000, 3000]);
    expect(p.aside()).toEqual([]);
    expect(p.links).toContain("away");
    expect(p.links.at(-1)).toBe("here");
  });

  test("waits for a server that can store nothing, however often it says so, and says why", async () => {
    const p = play((_, nth) => (nth < 9 ? "full" : "yes"));
    p.queue.add(run(1));
    await settled();
    expect(p.links[0]).toBe("away: The disk is full.");
    expect(p.links.at(-1)).toBe("here");
    expect(p.answered).toEqual([id(1)]);
    expect(p.aside()).toEqual([]);
  });

  test("a handler that throws loses nothing and sends nothing twice", async () => {
    const seen: string[] = [];
    const p = play(() => "yes", {
      answered: (decision) => {
        seen.push(decision.id);
        throw new Error("the screen broke");
      },
    });
    p.queue.add(run(1), run(2), run(3));
    await settled();
    expect(p.sent).toEqual([id(1), id(2), id(3)]);
    expect(seen).toEqual(p.sent);
  });

  test("a browser that keeps nothing stops nothing; that is said once", async () => {
    const said: boolean[] = [];
    const p = play(() => "yes", {
      keep: async () => {
        throw new Error("no room");
      },
      unkept: (isKept) => void said.push(isKept),
    });
    p.queue.add(run(1));
    p.queue.add(run(2));
    await settled();
    expect(p.sent).toEqual([id(1), id(2)]);
    expect(said).toEqual([false]);
  });

  test.each(["fails", "odd"] as const)(
    "one on which the server %s while it is well is set aside after three tries, and the next goes on",
    async (how) => {
      const p = play((decision) => (decision.id === id(1) ? how : "yes"));
      p.queue.add(run(1), run(2));
      await settled();
      expect(p.sent.filter((one) => one === id(1))).toHaveLength(3);
      expect(p.answered).toEqual([id(2)]);
      expect(p.withdrawn).toEqual([[id(1)]]);
      expect(p.aside()).toEqual([[id(1), how === "fails" ? "It broke." : "unreadable"]]);
      // Kept, so that it is there after a reload as well.
      expect(p.kept.at(-1)).toMatchObject({ waiting: [], aside: [{ decision: { id: id(1) } }] });
    },
  );

  test("a failing server that is not well is one that is away: nothing is set aside for it", async () => {
    let well = false;
    const p = play((_, nth) => (nth < 6 ? "fails" : "yes"), { isWell: async () => well });
    p.queue.add(run(1));
    await settled();
    expect(p.answered).toEqual([id(1)]);
    expect(p.aside()).toEqual([]);
    // Failures before it was well count for nothing after.
    well = true;
    const q = play((_, nth) => (nth === 3 ? "yes" : "fails"));
    q.queue.add(run(2));
    await settled();
    expect(q.answered).toEqual([id(2)]);
  });

  test("a refusal is final: set aside at once, with its reason", async () => {
    const p = play((decision) => (decision.id === id(1) ? "no" : "yes"));
    p.queue.add(run(1), run(2));
    await settled();
    expect(p.sent).toEqual([id(1), id(2)]);
    expect(p.aside()).toEqual([[id(1), "It cannot be."]]);
  });

  test("what was to take back a decision that cannot be done goes with it", async () => {
    const p = play((decision) => (decision.id === id(1) ? "no" : "yes"));
    p.queue.add(run(1), run(2), undo(3, 1), undo(4, 2));
    await settled();
    expect(p.sent).toEqual([id(1), id(2), id(4)]);
    expect(p.withdrawn).toEqual([[id(1), id(3)]]);
    // The person has taken it back already: there is nothing to try again.
    expect(p.aside()).toEqual([]);
  });

  test("what its owner does not want aside is not", async () => {
    const p = play(() => "no", { undone: () => false });
    p.queue.add(undo(1, 9));
    await settled();
    expect(p.aside()).toEqual([]);
  });

  test("what was set aside is tried again or thrown away, and other windows' is taken over", async () => {
    let works = false;
    const p = play(() => (works ? "yes" : "no"));
    p.queue.add(run(1), run(2));
    await settled();
    expect(p.queue.recall(id(7))).toBeNull();
    works = true;
    p.queue.add(p.queue.recall(id(1))!);
    await settled();
    expect(p.answered).toEqual([id(1)]);
    await p.queue.takeOver({ aside: [{ decision: run(5), why: "then" }] });
    expect(p.aside().map(([one]) => one)).toEqual([id(2), id(5)]);
    p.queue.recall(id(2));
    expect(p.aside().map(([one]) => one)).toEqual([id(5)]);
    expect(p.kept.at(-1)).toMatchObject({ waiting: [], aside: [{ decision: { id: id(5) } }] });
  });

  test("what is decided while another is on its way is sent after it", async () => {
    const p = play((decision, nth) => (decision.id === id(1) && nth === 1 ? "away" : "yes"));
    p.onPause(() => p.queue.add(run(2)));
    p.queue.add(run(1));
    await settled();
    expect(p.sent).toEqual([id(1), id(1), id(2)]);
    expect(p.answered).toEqual([id(1), id(2)]);
  });
});
