/** The Date header (RFC 5322 section 3.3, with the obsolete zones of 4.3), read leniently. */
const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
/** Minutes east of Greenwich. */
const ZONES: Record<string, number> = {
  ut: 0,
  utc: 0,
  gmt: 0,
  z: 0,
  est: -300,
  edt: -240,
  cst: -360,
  cdt: -300,
  mst: -420,
  mdt: -360,
  pst: -480,
  pdt: -420,
};
const EARLIEST_MS = Date.UTC(1970, 0, 2);
/** Senders' clocks are wrong by hours and days; a year ahead is no date. */
const LATEST_AHEAD_MS = 370 * 86_400_000;

function fullYear(text: string): number {
  const year = Number(text);
  if (text.length > 3) return year;
  return year < 50 ? 2000 + year : 1900 + year;
}

/** @returns null when no date can be made out, or one that cannot be meant */
export function readMailDate(raw: string, now: Date): Date | null {
  const text = raw
    .slice(0, 200)
    .replace(/\([^()]*\)/g, " ")
    .trim();
  const found =
    /(\d{1,2})[\s-]+([A-Za-z]{3})[A-Za-z]*[\s-]+(\d{2,4})[\s,]+(\d{1,2})[:.](\d{2})(?:[:.](\d{2}))?\s*([+-]\d{4}|[A-Za-z]{1,4})?/.exec(
      text,
    );
  let ms: number;
  if (found) {
    const month = MONTHS.indexOf(found[2]!.toLowerCase());
    const zone = found[7]?.toLowerCase() ?? "";
    const digits = /^([+-])(\d{2})(\d{2})$/.exec(zone);
    const east = digits ? Number(`${digits[1]}1`) * (Number(digits[2]) * 60 + Number(digits[3])) : (ZONES[zone] ?? 0);
    if (month < 0) return null;
    ms = Date.UTC(
      fullYear(found[3]!),
      month,
      Number(found[1]),
      Number(found[4]),
      Number(found[5]),
      Number(found[6] ?? 0),
    );
    ms -= east * 60_000;
  } else ms = /^\d{4}-\d{2}-\d{2}/.test(text) ? Date.parse(text) : NaN;
  return ms >= EARLIEST_MS && ms <= now.getTime() + LATEST_AHEAD_MS ? new Date(ms) : null;
}
