import type { PaceFigure } from "@/core/api";
import { writeCsv, type Cell } from "@/core/pace";
import type { Context } from "./context";
import { readPace, readPaceMacros, readPaceSenders, type PaceQuery } from "./pace";

/** The same figures as tables, for sheets. Times are in seconds. */

const WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
const seconds = (ms: number | null): number | null => (ms === null ? null : Math.round(ms / 1000));

type Table = readonly [head: readonly string[], rows: readonly (readonly Cell[])[]];

const TABLES: Record<PaceFigure, (context: Context, query: PaceQuery) => Promise<Table>> = {
  async flow(context, query) {
    const { flow } = await readPace(context, query);
    return [
      [query.by, "came", "decided", "filed"],
      flow.map(({ at, came, decided, filed }) => [at, came, decided, filed]),
    ];
  },
  async backlog(context, query) {
    const { backlog, ages } = await readPace(context, query);
    return [
      ["day", "total", ...ages.map((age) => `from ${age} days`)],
      backlog.map(({ day, total, layers }) => [day, total, ...layers]),
    ];
  },
  async week(context, query) {
    const { week } = await readPace(context, query);
    const rows = WEEKDAYS.flatMap((name, day) =>
      week.came[day]!.map((came, hour): Cell[] => [name, hour, came, week.decided[day]![hour]!]),
    );
    return [["weekday", "hour", "came", "decided"], rows];
  },
  async senders(context, query) {
    const rows = await readPaceSenders(context, query);
    return [
      ["source", "name", "came", "decided", "waits", "unread", "median seconds", "nine of ten seconds"],
      rows.map(({ source, name, came, decided, open, unread, waits }) => [
        source,
        name,
        came,
        decided,
        open,
        unread,
        seconds(waits.median),
        seconds(waits.most),
      ]),
    ];
  },
  async macros(context, query) {
    const rows = await readPaceMacros(context, query);
    return [
      ["macro", "runs", "messages", "by key", "by swipe", "keys saved", "seconds saved"],
      rows.map((row) => [row.name, row.runs, row.messages, row.byKey, row.bySwipe, row.keys, Math.round(row.seconds)]),
    ];
  },
};

export const paceCsv = async (context: Context, figure: PaceFigure, query: PaceQuery): Promise<string> =>
  writeCsv(...(await TABLES[figure](context, query)));
