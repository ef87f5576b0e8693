import { setTimeout as pause } from "node:timers/promises";
import { afterAll, beforeAll, expect, test } from "vitest";
import type { Step } from "@/core/macro";
import { letter, startMailService, type MailService } from "../fixtures/mail-service";
import { kill as killProcess, startJobs } from "./jobs";
import { Sides } from "./sides";

/** Two programs work on one mailbox at random, and either may be killed: afterwards both have the same. */

/** CONVERGE_MINUTES=5 npx vitest …: other seeds, one after another, for so long. */
const MINUTES = Number(process.env.CONVERGE_MINUTES ?? 0);
const SEEDS = [3, 5, 8, 13];
const MORE_SEEDS = Array.from({ length: MINUTES > 0 ? 200 : 0 }, (_, i) => 100 + i);
const STEPS = 40;
const IN_TURN = 21;
let service: MailService;
beforeAll(async () => {
  service = await startMailService([...SEEDS, ...MORE_SEEDS, IN_TURN].map((seed) => `u${seed}`));
});
afterAll(() => service.end());

/** Numbers that look random and are the same for the same seed (a linear congruential generator). */
function chance(seed: number): (below: number) => number {
  let now = seed * 7919 + 17;
  return (below) => {
    now = (Math.imul(now, 1103515245) + 12345) & 0x7fffffff;
    return (now >>> 8) % below;
  };
}

const MAILBOXES = ["INBOX", "Archive", "Trash", "Wardens"];
const PLACES: Record<string, string> = { INBOX: "Inbox" };
const STEPS_HERE: readonly Step[] = [
  { do: "archive" },
  { do: "trash" },
  { do: "read" },
  { do: "unread" },
  { do: "flag" },
  { do: "unflag" },
  { do: "move", to: "Wardens" },
  { do: "move", to: "Inbox" },
  { do: "label", add: "Invoice" },
  { do: "label", remove: "Invoice" },
  { do: "delete for good" },
];

async function actHere(sides: Sides, pick: (below: number) => number): Promise<void> {
  const rows = await sides.here();
  const ids = rows.filter(() => pick(4) === 0).map(({ id }) => id);
  const step = STEPS_HERE[pick(STEPS_HERE.length)]!;
  // Deleting for good is rare, as with people.
  if (ids.length > 0) await sides.run(step.do === "delete for good" ? ids.slice(0, 1) : ids, step);
}

async function actThere(sides: Sides, pick: (below: number) => number, fresh: () => number): Promise<void> {
  const mailbox = MAILBOXES[pick(MAILBOXES.length)]!;
  const rows = await sides.bare.list(mailbox);
  const uid = rows[pick(Math.max(1, rows.length))]?.uid;
  const into = MAILBOXES[pick(MAILBOXES.length)]!;
  const what = pick(7);
  if (what === 0 || uid === undefined) return sides.bare.append(mailbox, letter(fresh()));
  if (what === 1) return void (await sides.bare.run(`UID STORE ${uid} +FLAGS (\\Seen)`));
  if (what === 2) return void (await sides.bare.run(`UID STORE ${uid} -FLAGS (\\Seen \\Flagged)`));
  if (what === 3) return void (await sides.bare.run(`UID STORE ${uid} +FLAGS (\\Flagged Invoice)`));
  if (what === 4 && into !== mailbox) return void (await sides.bare.run(`UID MOVE ${uid} ${into}`));
  if (what === 5 && pick(3) === 0) {
    await sides.bare.run(`UID STORE ${uid} +FLAGS (\\Deleted)`);
    await sides.bare.run(`UID EXPUNGE ${uid}`);
  }
}

async function kill(sides: Sides, pick: (below: number) => number): Promise<void> {
  const what = pick(3);
  if (what === 0) return sides.another();
  if (what === 1) service.wire.cutAfter = pick(2) === 0 ? /MOVE/ : /STORE/;
  else service.wire.cutAt = pick(2) === 0 ? /BODY\[\]/ : /FLAGS \(/;
}

/** What each side has of every mailbox, as lines. */
async function both(sides: Sides): Promise<{ here: string[]; there: string[] }> {
  const there: string[] = [];
  for (const mailbox of MAILBOXES)
    for (const line of await sides.there(mailbox)) there.push(`${PLACES[mailbox] ?? mailbox} ${line}`);
  const here = (await sides.here())
    .filter(({ uid }) => uid !== null)
    .map(({ path, messageId, bits, labels }) =>
      [
        path,
        messageId,
        ...[...labels, ...(bits & 8 ? ["\\Flagged"] : []), ...(bits & 1 ? ["\\Seen"] : [])].sort(),
      ].join(" "),
    );
  return { here: here.sort(), there: there.sort() };
}

/** Messages of the server's whose source here is not their own. */
async function wrongTexts(sides: Sides): Promise<string[]> {
  const rows = await sides.fresh.db.sql<{ messageId: string; text: string }[]>`
    select m.message_id as "messageId", convert_from(c.raw, 'UTF8') as text
    from placement p join message m on m.person = p.person and m.id = p.message
      join content c on c.person = m.person and c.id = m.content`;
  const own = (id: string) => `Beds, please: ${/\d+/.exec(id)![0]}.`;
  return rows.filter(({ messageId, text }) => !text.includes(own(messageId))).map(({ messageId }) => messageId);
}

async function converge(seed: number): Promise<void> {
  const sides = await Sides.open(service, `u${seed}`);
  try {
    const pick = chance(seed);
    // Texts come when they will: two of three times the server gives none.
    let asked = 0;
    service.wire.refuse = (command) =>
      /BODY\.PEEK\[\]/.test(command) && ++asked % 3 > 0 ? "NO [INUSE] not now" : null;
    let made = 20;
    await sides.bare.run("CREATE Wardens");
    await sides.fill(made);
    await sides.connect();
    for (let step = 0; step < STEPS; step++) {
      const what = pick(10);
      if (what < 3) await actHere(sides, pick);
      else if (what < 6) await actThere(sides, pick, () => ++made);
      else if (what < 9) await sides.see();
      else await kill(sides, pick);
    }
    Object.assign(service.wire, { cutAt: null, cutAfter: null, refuse: () => null });
    await sides.settle();
    const { here, there } = await both(sides);
    expect(here).toEqual(there);
    expect(await wrongTexts(sides)).toEqual([]);
    // Nothing is here twice that is there once, and nothing of it waits.
    const all = await sides.here();
    expect(all.filter(({ uid }) => uid !== null)).toHaveLength(there.length);
    sides.changing();
    await sides.settle();
    expect(sides.changing()).toEqual([]);
    expect(await both(sides)).toEqual({ here, there });
  } finally {
    await sides.end();
  }
}

test.each(SEEDS)("seed %i", converge);

test("two job processes see to it at once, and are killed in turn", async () => {
  const sides = await Sides.open(service, `u${IN_TURN}`);
  const env = { DATABASE_URL: sides.fresh.url, TACHYNE_KEY: process.env.TACHYNE_KEY! };
  const jobs = [startJobs(env), startJobs(env)];
  try {
    const pick = chance(IN_TURN);
    let made = 20;
    await sides.bare.run("CREATE Wardens");
    await sides.fill(made);
    await sides.connect();
    const isIn = async () => (await sides.here()).length;
    await expect.poll(isIn, { timeout: 60_000 }).toBe(made);
    for (let step = 0; step < STEPS; step++) {
      if (pick(2)) await actHere(sides, pick);
      else await actThere(sides, pick, () => ++made);
      await pause(pick(60));
      if (step % 8 !== 7) continue;
      const which = (step >> 3) % 2;
      await killProcess(jobs[which]!);
      jobs[which] = startJobs(env);
    }
    // As they are left, in the middle of whatever it was; another one goes on.
    await Promise.all(jobs.map(killProcess));
    await sides.settle();
    const { here, there } = await both(sides);
    expect(here).toEqual(there);
    expect(await wrongTexts(sides)).toEqual([]);
    expect(here.length).toBeGreaterThan(made / 2);
  } finally {
    await Promise.all(jobs.map(killProcess));
    await sides.end();
  }
});

test.runIf(MINUTES > 0)(
  `for ${MINUTES} minutes`,
  async () => {
    const until = Date.now() + MINUTES * 60_000;
    let done = 0;
    for (const seed of MORE_SEEDS)
      if (Date.now() < until) {
        await converge(seed).catch((cause: unknown) => {
          throw new Error(`seed ${seed}`, { cause });
        });
        done++;
      }
    console.log(`${done} seeds, ${done * STEPS} steps`);
    expect(done).toBeGreaterThan(0);
  },
  (MINUTES + 2) * 60_000,
);
