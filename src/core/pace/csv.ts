/** A value of a table; null stays empty. */
export type Cell = string | number | null;

/** What a sheet would take for a formula is marked as text. */
const FORMULA = /^[=+\-@\t\r]/;

function field(cell: Cell): string {
  if (cell === null) return "";
  if (typeof cell === "number") return String(cell);
  const text = FORMULA.test(cell) ? `'${cell}` : cell;
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** A table as comma-separated values (RFC 4180). @param head names of its columns */
export const writeCsv = (head: readonly string[], rows: readonly (readonly Cell[])[]): string =>
  [head, ...rows].map((row) => `${row.map(field).join(",")}\r\n`).join("");
