import { createMacro, createRule, deleteRule, importFile, type Context } from "@/server/act";
import { mboxEntry } from "@/core/mail";
import { doJob, type ParsePool } from "@/server/jobs";
import { generate } from "../../demo/generate";
import { say, timed, type Figure } from "./figures";

const RULES = 100;
const MESSAGES = 2000;
/** Rules may add half of what taking mail in costs without them. */
const BUDGET = 1.5;

async function takingIn(context: Context, pool: ParsePool, seed: number): Promise<number> {
  const world = [...generate({ messages: MESSAGES, seed, now: new Date() })];
  const file = Buffer.concat(world.map((one) => mboxEntry(one.raw, one.sender, one.date)));
  async function* pieces() {
    for (let at = 0; at < file.length; at += 1 << 20) yield file.subarray(at, at + (1 << 20));
  }
  const id = await importFile(context, "rules.mbox", "Inbox", pieces(), true);
  const [job] = await context.db.sql`select * from job where id = ${id}`;
  return timed(() => doJob(context.db, job as never, pool));
}

/** Mail that a hundred rules look at as it comes in, against the same without any. One in ten of them means something. */
export async function ruleFigures(context: Context, pool: ParsePool): Promise<Figure[]> {
  say(`${RULES} rules on arrival`);
  const macro = await createMacro(context, {
    name: "Seen by a rule",
    colour: "spruce",
    steps: [{ do: "read" }],
    settings: {},
  });
  await takingIn(context, pool, 70);
  const floorMs = await takingIn(context, pool, 71);
  const made: number[] = [];
  for (let n = 0; n < RULES; n++) {
    const narrow = n % 10 === 0 ? `subject~week size>${n}` : `from=nobody${n}@larch.example subject~"week ${n}"`;
    made.push((await createRule(context, { narrow, macro: macro.id, on: true, stop: false })).id);
  }
  const ms = await takingIn(context, pool, 72);
  for (const id of made) await deleteRule(context, id);
  return [
    {
      what: `taking ${MESSAGES.toLocaleString("en")} messages in past ${RULES} rules`,
      ms,
      floor: "without rules",
      floorMs,
      budget: BUDGET,
    },
  ];
}
