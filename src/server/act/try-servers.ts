import type { NewAccount, RemoteFolderShape, Servers, TestAnswer } from "@/core/api";
import { plural } from "@/core/text";
import {
  fetchToken,
  heldOf,
  Imap,
  isLoopback,
  isSafe,
  NoKey,
  openingOf,
  serverAccounts,
  trySmtp,
  type Held,
} from "../gateway";
import { notFound, Refusal } from "../run";
import type { Context } from "./context";

/** Trying mail servers out: what is not seen to work is not stored. */

const said = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** A password that anybody on the way could read is not sent. */
function mustBeSealed({ imap, smtp, method, tokens }: Servers): void {
  const open = [imap, smtp].find(({ security, host }) => security === "none" && !isLoopback(host));
  if (open)
    throw new Refusal(
      422,
      "Not without TLS",
      `Anybody on the way to ${open.host} could read the password. Choose TLS or STARTTLS.`,
    );
  if (method !== "renewed") return;
  if (!tokens)
    throw new Refusal(422, "No token endpoint", "Write where tokens are fetched, and the client id they are for.");
  if (!isSafe(tokens))
    throw new Refusal(
      422,
      "Not without TLS",
      `Anybody on the way to ${tokens.endpoint} could read the token. Write an address that begins with https.`,
    );
}

/** Folders with how many messages they hold; one that may not be looked into holds none. */
async function foldersOf(line: Imap): Promise<RemoteFolderShape[]> {
  const listed = (await line.mailboxStates()).filter(({ role }) => role !== "drafts");
  return listed.map(({ path, place, role, state }) => ({
    path,
    place: role === "inbox" ? "Inbox" : place,
    messages: state?.messages ?? 0,
  }));
}

interface Attempt {
  readonly answer: TestAnswer;
  /** What is to be stored: an endpoint may have given another refresh token. */
  readonly held: Held;
}

/** Signs in at both servers and out again; nothing is stored. */
export async function attempt(servers: Servers, given: Held): Promise<Attempt> {
  mustBeSealed(servers);
  let held = given;
  let opening = given.secret;
  if (servers.method === "renewed" && servers.tokens)
    try {
      const fetched = await fetchToken(servers.tokens, given);
      held = fetched.held;
      opening = fetched.access;
    } catch (error) {
      const none = { ok: false, said: said(error) };
      return { answer: { imap: none, smtp: none, folders: [] }, held };
    }
  let folders: RemoteFolderShape[] = [];
  const imap = Imap.open(servers, opening).then(async (line) => {
    folders = await foldersOf(line);
    await line.close();
    return { ok: true, said: `Signed in; there are ${plural(folders.length, "folder")}.` };
  });
  const smtp = trySmtp(servers, opening).then(({ utf8 }) => ({
    ok: true,
    said: utf8 ? "Signed in." : "Signed in; it takes no addresses outside ASCII.",
  }));
  const [a, b] = await Promise.all(
    [imap, smtp].map((work) => work.catch((error: unknown) => ({ ok: false, said: said(error) }))),
  );
  return { answer: { imap: a!, smtp: b!, folders }, held };
}

export const heldIn = ({ secret, clientSecret }: Pick<NewAccount, "secret" | "clientSecret">): Held => ({
  secret,
  clientSecret: clientSecret ?? null,
});

export const testAccount = async (
  _: Context,
  body: Pick<NewAccount, "servers" | "secret" | "clientSecret">,
): Promise<TestAnswer> => (await attempt(body.servers, heldIn(body))).answer;

/** @returns what is to be stored @throws Refusal for what does not work */
export async function mustWork(servers: Servers, given: Held): Promise<Held> {
  const { answer, held } = await attempt(servers, given);
  const why = [...new Set([answer.imap, answer.smtp].filter(({ ok }) => !ok).map((half) => half.said))];
  if (why.length > 0) throw new Refusal(422, "It does not work yet", `${why.join(" ")} Nothing was stored.`);
  return held;
}

/** @throws Refusal where there is no key for it, with how to give one */
export function withKey<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof NoKey) throw new Refusal(409, "Passwords cannot be kept", error.message);
    throw error;
  }
}

/** What folders there are on an account's server, those that are left alone among them. */
export async function listRemoteFolders({ db, person }: Context, id: number): Promise<RemoteFolderShape[]> {
  const [account] = await serverAccounts(db.sql, person, id);
  if (!account) throw notFound("account", id);
  withKey(() => heldOf(account));
  try {
    const line = await Imap.open(account.servers, await openingOf(db.sql, account));
    const folders = await foldersOf(line);
    await line.close();
    return folders;
  } catch (error) {
    throw new Refusal(409, "The server cannot be asked", said(error));
  }
}
