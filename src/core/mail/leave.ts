import { percentDecoded } from "../text";

/**
 * How a list is left, as its messages say: List-Unsubscribe (RFC 2369) names a page or an address to write to, and
 * with List-Unsubscribe-Post (RFC 8058) one request does it.
 */
export interface LeaveWays {
  /** An https address: a POST to it leaves the list. */
  readonly click: string | null;
  readonly letter: { readonly to: string; readonly subject: string; readonly text: string } | null;
  /** A page that a person has to look at. */
  readonly page: string | null;
}

const MOST_WAYS = 10;
const LONGEST_TARGET = 2000;
const ONE_CLICK = /^\s*list-unsubscribe\s*=\s*one-click\s*$/i;
const ADDRESS = /^[^\s@<>,;:"()]+@[^\s@<>,;:"()]+$/;

/** A mailto address (RFC 6068): whom it is to, and of its fields subject and text; the others are not for a stranger to set. */
function letterTo(target: string): LeaveWays["letter"] {
  const [path = "", query = ""] = target.slice("mailto:".length).split("?", 2);
  const to = percentDecoded(path.split(",")[0]!).trim();
  if (!ADDRESS.test(to)) return null;
  const fields = new Map(
    query.split("&").map((pair) => {
      const at = pair.indexOf("=");
      return [pair.slice(0, Math.max(0, at)).toLowerCase(), percentDecoded(pair.slice(at + 1))] as const;
    }),
  );
  const subject = (fields.get("subject") ?? "").replace(/[\p{Cc}\s]+/gu, " ").trim();
  return { to, subject: subject || "unsubscribe", text: fields.get("body") ?? "" };
}

const isWeb = (target: string, scheme: "https" | "http"): boolean => {
  try {
    const { protocol, username, password } = new URL(target);
    return protocol === `${scheme}:` && username === "" && password === "";
  } catch {
    return false;
  }
};

/**
 * @param unsubscribe the value of List-Unsubscribe; "" for none
 * @param post the value of List-Unsubscribe-Post
 */
export function leaveWays(unsubscribe: string, post: string): LeaveWays {
  const targets = [...unsubscribe.matchAll(/<([^<>]*)>/g)]
    .map(([, target]) => target!.replace(/\s+/g, ""))
    .filter((target) => target.length <= LONGEST_TARGET)
    .slice(0, MOST_WAYS);
  const secure = targets.find((target) => isWeb(target, "https")) ?? null;
  const mail = targets.find((target) => /^mailto:/i.test(target));
  return {
    click: ONE_CLICK.test(post) ? secure : null,
    letter: mail === undefined ? null : letterTo(mail),
    page: secure ?? targets.find((target) => isWeb(target, "http")) ?? null,
  };
}

/** Both headers of a source, unfolded; "" for one it does not have. */
export function leaveHeaders(source: string): readonly [unsubscribe: string, post: string] {
  const end = /\r?\n\r?\n/.exec(source)?.index ?? source.length;
  const lines = source
    .slice(0, end)
    .replace(/\r?\n[ \t]+/g, " ")
    .split(/\r?\n/);
  const valueOf = (name: string): string => {
    const line = lines.find((one) => one.toLowerCase().startsWith(`${name}:`));
    return line === undefined ? "" : line.slice(name.length + 1).trim();
  };
  return [valueOf("list-unsubscribe"), valueOf("list-unsubscribe-post")];
}
