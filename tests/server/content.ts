import type { Database } from "@/server/db";

/** Every table's rows, and where every count stands, as text. */
export async function contentOf({ sql }: Database): Promise<Record<string, string>> {
  const all: Record<string, string> = {};
  const tables = await sql<{ name: string }[]>`
    select quote_ident(schemaname) || '.' || quote_ident(tablename) as name from pg_tables
    where schemaname in ('public', 'drizzle') order by 1`;
  for (const { name } of tables) {
    const [row] = await sql.unsafe<{ n: number; text: string }[]>(
      `select count(*)::int as n, md5(coalesce(string_agg(t::text, '|' order by t::text), '')) as text from ${name} t`,
    );
    all[name] = `${row!.n} ${row!.text}`;
  }
  const counts = await sql<{ name: string; last: number | null }[]>`
    select sequencename as name, last_value as last from pg_sequences order by 1`;
  return { ...all, ...Object.fromEntries(counts.map(({ name, last }) => [`sequence ${name}`, String(last ?? 0)])) };
}
