import type { Message } from "@/core/api";
import { isHead, isSelected } from "@/core/list";
import { passedList, passedMessage, passedThread, type Passed } from "@/core/text";
import { countText, longDateText, plural } from "../parts/words";
import { listedIds } from "./listed";
import { message, reads } from "./reads";
import { mailbox, notify, view } from "./store";

/** Passing mail on outside mail: as text on the clipboard, with an address that opens it here. */

/** Where a message is read, for as long as it exists. */
export const addressOf = (id: number): string => `${location.origin}/message/${id}`;

const person = (name: string, address: string): string => (name === "" ? address : `${name} <${address}>`);
const dateOf = (iso: string): string => longDateText(iso, view().home?.person.zone ?? "UTC");

async function passed(id: number): Promise<Passed> {
  const { message: read } = await reads.fetchQuery(message(id, 0));
  return {
    subject: read.subject,
    from: person(read.from.name, read.from.address),
    to: [...read.to, ...read.cc].map(({ name, address }) => person(name, address)).join(", "),
    date: dateOf(read.date),
    text: await textOf(read),
    files: read.files.filter(({ inline }) => !inline).map(({ name }) => name),
    link: addressOf(id),
  };
}

async function textOf({ text, html }: Message): Promise<string> {
  if (text !== null || html === null) return text ?? "";
  // Few messages have no plain text: what reads HTML is fetched when one of them is passed on.
  return (await import("@/core/mail/html")).textOfHtml(html);
}

/** More lines than this nobody reads, and no clipboard is made for. */
const MOST_LISTED = 2000;

function list(ids: readonly number[]): string {
  const lines = ids.slice(0, MOST_LISTED).flatMap((id) => {
    const row = mailbox.rowOf(id);
    if (row === undefined) return [];
    const from = mailbox.text(row, "fromName") || mailbox.text(row, "fromAddress");
    const date = dateOf(new Date(mailbox.columns.dateMs[row]!).toISOString());
    return [{ subject: mailbox.text(row, "subject"), from, date, link: addressOf(id) }];
  });
  return passedList(lines);
}

interface Copied {
  readonly text: string;
  /** "The message is". */
  readonly what: string;
}

/** Puts a text on the clipboard; it may still be coming, since only a key or a click may write there. */
async function copy(copied: Promise<Copied>): Promise<void> {
  try {
    const blob = copied.then(({ text }) => new Blob([text], { type: "text/plain" }));
    await navigator.clipboard.write([new ClipboardItem({ "text/plain": blob })]);
    notify(`${(await copied).what} copied as text.`);
  } catch {
    const why = window.isSecureContext
      ? "The server is away, or the browser lets no page copy. Try again."
      : "The browser lets only pages at https or at this machine's own address copy.";
    notify(`Nothing was copied. ${why}`, "trouble");
  }
}

function copyList(ids: readonly number[]): void {
  const many =
    ids.length > MOST_LISTED
      ? `The first ${countText(MOST_LISTED)} of ${countText(ids.length)} messages`
      : plural(ids.length, "message");
  void copy(Promise.resolve({ text: list(ids), what: `${many}, a line each,` }));
}

/** What a macro takes along: one message with its words, several as a list. */
export const copyMessages = (ids: readonly number[]): void => (ids.length === 1 ? copyMessage(ids[0]!) : copyList(ids));

/** Copies the focused message as text; where some are ticked, or a group has the focus, those as a list. */
export function copyAsText(): void {
  const { selection, selected, listing, focus, focusId } = view();
  const item = listing.items[focus];
  const group = isHead(item) ? listing.members(-1 - item!).map((row) => mailbox.columns.id[row]!) : null;
  const ids = selected > 0 ? [...listedIds(true)].filter((id) => isSelected(selection, id)) : group;
  if (ids) return copyList(ids);
  if (focusId === null) return notify("Put the focus on a message first.");
  copyMessage(focusId);
}

export const copyMessage = (id: number): void =>
  void copy(passed(id).then((one) => ({ text: passedMessage(one), what: "The message is" })));

/** Of a longer thread the newest are copied. */
const MOST_IN_THREAD = 50;

async function threadText(ids: readonly number[]): Promise<Copied> {
  const newest = ids.slice(-MOST_IN_THREAD);
  const text = passedThread(await Promise.all(newest.map(passed)));
  return { text, what: newest.length === 1 ? "The message is" : `The thread of ${newest.length} messages is` };
}

/** Copies the thread a message is in, as the server knows it: of a mailbox that is being read not all may be here. */
export const copyThreadOf = (id: number): void =>
  void copy(
    reads
      .fetchQuery(message(id, 0))
      .then(({ message: read }) => read.threadRows.map((row) => row.id))
      .then(threadText),
  );

/** Copies the thread of the focused message, each message in its own words. */
export function copyThreadAsText(): void {
  const { focusId, loading } = view();
  if (focusId === null) return notify("Put the focus on a message first.");
  if (loading !== null) copyThreadOf(focusId);
  else void copy(threadText(mailbox.threadOf(focusId)));
}
