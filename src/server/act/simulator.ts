import type { z } from "zod";
import type { simulatorPatch, SimulatorShape } from "@/core/api";
import { Refusal } from "../run";
import type { Context } from "./context";

/** Driving the simulated mail service: from its panel, and by tests. */

const none = () =>
  new Refusal(404, "No simulated service", "This mailbox has no simulated mail service. npm run demo makes one.");

export async function readSimulator({ db, person }: Context): Promise<SimulatorShape> {
  const [row] = await db.sql<SimulatorShape[]>`
    select s.rate::float8 as rate, s.mode, round(s.answers::numeric, 3)::float8 as answers,
      round(s.bounces::numeric, 3)::float8 as bounces, s.answer_after as "answerAfter", s.utf8,
      (select count(*)::int from simulated_sent g where g.person = s.person and g.account = s.account) as received,
      (select count(*)::int from simulated_left g where g.person = s.person and g.account = s.account) as left,
      (select count(*)::int from simulated_report g where g.person = s.person and g.account = s.account) as reported,
      s.made, s.asked + (select count(*)::int from simulated_mail m
        where m.person = s.person and m.account = s.account and m.uid > a.mark) as waiting, a.trouble
    from simulator s join account a on a.person = s.person and a.id = s.account where s.person = ${person}`;
  if (!row) throw none();
  return { ...row };
}

export async function changeSimulator(
  context: Context,
  { rate, mode, answers, bounces, answerAfter, utf8 }: z.infer<typeof simulatorPatch>,
): Promise<SimulatorShape> {
  const { db, person } = context;
  if (rate !== undefined)
    await db.sql`
      update simulator set rate = ${rate}, next_at = now() + interval '1 hour' / greatest(${rate}::float8, 0.001)
      where person = ${person}`;
  if (mode !== undefined)
    await db.sql.begin(async (tx) => {
      await tx`update simulator set mode = ${mode} where person = ${person}`;
      // Whoever repairs a service wants to see it work: it is asked at once.
      await tx`update account set retry_at = now(), failures = 0 where person = ${person}`;
      await tx`update held set at = now() where person = ${person} and state = 'later'`;
    });
  await db.sql`
    update simulator set answers = coalesce(${answers ?? null}::real, answers), bounces = coalesce(${bounces ?? null}::real, bounces),
      answer_after = coalesce(${answerAfter ?? null}::int, answer_after), utf8 = coalesce(${utf8 ?? null}::boolean, utf8)
    where person = ${person}`;
  return readSimulator(context);
}

/** Lets messages come at once. The job process writes them; they are here within a second or two. */
export async function bringMail(context: Context, count: number): Promise<SimulatorShape> {
  const { db, person } = context;
  await db.sql`update simulator set asked = least(asked + ${count}, 10000) where person = ${person}`;
  return readSimulator(context);
}
