import { readNarrow } from "@/core/narrow";
import { readIndex, type Context } from "@/server/act";
import { openWalled } from "@/server/db";
import { readDirectory } from "@/server/run";
import { countMatches, pageOfIds } from "@/server/search";
import { median, say, timed, type Figure } from "./figures";

/** What the walls between people cost: the same asked as the tables' owner, who has none, and as a request is. */

const TRIES = 15;
const PAGE = 100;
const SOUGHT = ["!folder=Archive", "unread & age>7d", "from~marsh", "helicopter", '"hut office" unread'];

/** Both in turn, so that what else the machine does meets both. */
async function bothOf(work: (context: Context) => Promise<unknown>, open: Context, walled: Context, tries = TRIES) {
  const times = { open: [] as number[], walled: [] as number[] };
  for (let i = 0; i < tries; i++) {
    times.open.push(await timed(() => work(open)));
    times.walled.push(await timed(() => work(walled)));
  }
  return { ms: median(times.walled), floorMs: median(times.open) };
}

export async function wallFigures(open: Context, url: string): Promise<Figure[]> {
  say("walls between people");
  const pool = openWalled(url, 4);
  const { person } = open;
  const walled: Context = { ...open, db: pool.as(person) };
  const directory = await readDirectory(open.db.sql, person);
  const figures: Figure[] = [];
  const add = async (what: string, work: (context: Context) => Promise<unknown>, tries?: number) =>
    figures.push({
      what: `${what}, behind the wall`,
      ...(await bothOf(work, open, walled, tries)),
      floor: "without one",
      budget: null,
    });
  await add(
    "a hundred small statements, one after another",
    async ({ db }) => {
      for (let i = 0; i < 100; i++) await db.sql`select name from label where person = ${person} limit 1`;
    },
    7,
  );
  for (const source of SOUGHT) {
    const checked = readNarrow(source, { directory, now: new Date(), zone: open.zone });
    if (!checked.ok) throw new Error(source);
    const { test } = checked;
    await add(`${PAGE} rows of ${source}`, ({ db }) => pageOfIds(db.sql, person, test, "newest", PAGE));
    await add(`count of ${source}`, ({ db }) => countMatches(db.sql, person, test));
  }
  await add("the index of all messages", (context) => readIndex(context, { test: { kind: "all" } }, 1e7, null), 3);
  await pool.close();
  return figures;
}
