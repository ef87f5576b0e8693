import { decodeIndex, FOLDED_COLUMNS, foldedOf, Masks, RowIndex } from "@/core/columns";
import { matchingRows } from "@/core/list";
import { readNarrow } from "@/core/narrow";
import { readIndex, type Context } from "@/server/act";
import { readDirectory } from "@/server/run";
import { FRAME_MS, medianOf, say, timed, type Figure } from "./figures";

/** The column index: making it, decoding it, narrowing over it. */
export async function columnFigures(context: Context, messages: number): Promise<Figure[]> {
  say("the column index");
  const { sql } = context.db;
  const read = () => readIndex(context, { test: { kind: "all" } }, messages, null);
  const indexMs = await timed(read);
  const bytes = await read();
  const decodeMs = await medianOf(5, () => decodeIndex(bytes.buffer as ArrayBuffer));
  const { columns } = decodeIndex(bytes.buffer as ArrayBuffer);
  const rowsMs = await medianOf(
    3,
    () =>
      sql`select m.id, m.date, m.from_name, m.subject, m.preview, s.* from message m join message_state s on s.person = m.person and s.message = m.id limit ${messages}`,
  );
  const figures: Figure[] = [
    {
      what: `index of ${columns.count.toLocaleString("en")} messages, ${(bytes.length / 1e6).toFixed(1)} MB`,
      ms: indexMs,
      floor: "reading the rows alone",
      floorMs: rowsMs,
      budget: null,
    },
    { what: "decoding the index", ms: decodeMs, floor: "one frame", floorMs: FRAME_MS, budget: null },
  ];
  // What the browser's worker does before it hands the columns over.
  for (const name of FOLDED_COLUMNS) foldedOf(columns, name);
  const rows = new RowIndex(columns.id, columns.count);
  const directory = await readDirectory(context.db.sql, context.person);
  for (const source of ["unread & age>7d & !folder=Archive", "from~marsh", 'subject~"week 4" size>1k']) {
    const checked = readNarrow(source, { directory, now: new Date(), zone: context.zone });
    if (!checked.ok) throw new Error(source);
    const walk = () => matchingRows(new Masks(columns, rows, () => undefined).of(checked.test));
    walk();
    const ms = await medianOf(7, walk);
    const budget = messages <= 100_000 ? 1 : null;
    figures.push({ what: `narrowing by ${source}`, ms, floor: "one frame", floorMs: FRAME_MS, budget });
  }
  return figures;
}
