import { randomUUID } from "node:crypto";
import { messageId, runId } from "@/core/id";
import { plan } from "@/core/macro";
import { runMacro, takeBack, type Context } from "@/server/act";
import { readDirectory } from "@/server/run";
import { readStates } from "@/server/store";
import { median, medianOf, say, timed, type Figure } from "./figures";

const RUN = 10_000;
const TRIES = 15;
const FIVE = [
  { do: "label", add: "Invoice" },
  { do: "flag", due: "+3d", note: "beds" },
  { do: "toggle read" },
  { do: "marker", next: true },
  { do: "move", to: "Archive" },
] as const;

/** A run of five steps, its undo and its planning. */
export async function runFigures(context: Context): Promise<Figure[]> {
  const { person } = context;
  const { sql } = context.db;
  say(`a run of five steps on ${RUN.toLocaleString("en")} messages against one UPDATE`);
  const ids = (
    await sql<{ id: number }[]>`select message as id from message_state where folder = 1 order by message limit ${RUN}`
  ).map((row) => row.id);
  const list = `{${ids.join()}}`;
  const [runs, undos, floors]: [number[], number[], number[]] = [[], [], []];
  for (let i = 0; i < TRIES; i++) {
    // The floor: the same columns of the same rows in one statement; nothing read, compared or written down.
    floors.push(
      await timed(
        () => sql`update message_state
          set folder = 2, bits = bits # 9, labels = '{1}', marker = 1, flag_due = now(), flag_note = 'beds'
          where person = ${person} and message = any(${list}::text::bigint[])`,
      ),
    );
    await sql`update message_state
      set folder = 1, bits = bits # 9, labels = '{}', marker = 0, flag_due = null, flag_note = null
      where person = ${person} and message = any(${list}::text::bigint[])`;
    const id = randomUUID();
    runs.push(await timed(() => runMacro(context, { id, macro: { name: "Five", steps: [...FIVE] }, target: { ids } })));
    undos.push(await timed(() => takeBack(context, "undo", runId(id))));
  }
  const floor = { floor: "one UPDATE", floorMs: median(floors), budget: 1.5 };

  say("planning");
  const directory = await readDirectory(context.db.sql, context.person);
  const states = await readStates(sql, person, ids.map(messageId));
  const apart = ids.map((raw) => ({ id: messageId(raw), state: { ...states.get(messageId(raw))! } }));
  const now = new Date();
  const planMs = await medianOf(9, () => plan({ steps: FIVE }, apart, {}, { directory, now, zone: context.zone }));
  const loopMs = await medianOf(9, () =>
    apart.map(({ state }) => ({ ...state, folder: 2, read: !state.read, marker: 1, labels: [1] })),
  );
  return [
    { what: "five steps on 10,000", ms: median(runs), ...floor },
    { what: "taking it back", ms: median(undos), ...floor },
    { what: "planning 10,000 × 5", ms: planMs, floor: "a plain loop over the rows", floorMs: loopMs, budget: null },
  ];
}
