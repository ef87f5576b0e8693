const SILENT = ["style", "script", "head", "title"];
const ENTITIES: Record<string, string> = {
  nbsp: " ",
  lt: "<",
  gt: ">",
  quot: '"',
  apos: "'",
  amp: "&",
  ndash: "–",
  mdash: "—",
  hellip: "…",
  rsquo: "’",
  lsquo: "‘",
  euro: "€",
};
const LONGEST = 200_000;

const decode = (text: string): string =>
  text.replace(/&(#\d{1,7}|#x[0-9a-f]{1,6}|[a-z]{2,8});/gi, (whole, name: string) => {
    if (!name.startsWith("#")) return ENTITIES[name.toLowerCase()] ?? whole;
    const code = /^#x/i.test(name) ? parseInt(name.slice(2), 16) : Number(name.slice(1));
    return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : "";
  });

/**
 * The words of an HTML text, for previews and search; nothing is shown from it as HTML. Scans with indexOf
 * instead of patterns: "<style><style>…" and "<<<<…" would make a pattern look to the end from every "<".
 */
export function textOfHtml(html: string): string {
  const source = html.slice(0, LONGEST);
  const lower = source.toLowerCase();
  const out: string[] = [];
  let at = 0;
  while (at < source.length) {
    const open = source.indexOf("<", at);
    out.push(source.slice(at, open < 0 ? source.length : open));
    if (open < 0) break;
    const silent = SILENT.find((name) => lower.startsWith(name, open + 1));
    const end = silent ? `</${silent}` : source.startsWith("<!--", open) ? "-->" : ">";
    const close = lower.indexOf(end, open + 1);
    // What is never closed is dropped: a browser would not show it either.
    if (close < 0) break;
    const last = silent ? lower.indexOf(">", close) : close + end.length - 1;
    at = last < 0 ? source.length : last + 1;
    out.push(/^<\/?(p|div|br|tr|li|h\d)\b/.test(lower.slice(open, open + 6)) ? "\n" : " ");
  }
  return decode(out.join(""));
}
