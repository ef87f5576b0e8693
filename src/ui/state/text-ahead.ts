import { matchingRows } from "@/core/list";
import { folderFor } from "@/core/place";
import { getText } from "./api";
import { checkNarrow } from "./browse";
import { isQuietFor, whenIdle } from "./idle";
import { keepAnswer, withoutText } from "./kept-answers";
import { maskOf } from "./listed";
import { placeOf } from "./places";
import { mailbox, view } from "./store";

/**
 * Reads the texts that somebody without a connection will want: of what is listed from the focus on, and of the
 * inbox from where deciding goes on there. One after another, while the person does nothing.
 */
const MOST = 200;
/** After the window was opened: what was opened first has gone ahead by then. */
const BEGIN_MS = 8000;
const QUIET_MS = 2000;
const LOOK_EVERY_MS = 30_000;

const listed = (): readonly number[] => {
  const { listing, focus } = view();
  const from = Math.max(0, focus);
  return [...listing.items.slice(from, from + 2 * MOST)]
    .filter((row) => row >= 0)
    .slice(0, MOST)
    .map((row) => mailbox.idAt(row));
};

function inbox(): readonly number[] {
  const { directory, home } = view();
  const folder = folderFor(directory, "inbox");
  if (!folder) return [];
  const checked = checkNarrow(placeOf(folder));
  if (!checked.ok) return [];
  const { dateMs } = mailbox.columns;
  const sign = home?.settings.order === "oldest" ? 1 : -1;
  return [...matchingRows(maskOf(checked.test))]
    .sort((a, b) => sign * (dateMs[a]! - dateMs[b]!))
    .slice(0, MOST)
    .map((row) => mailbox.idAt(row));
}

const mayRead = (): boolean => view().link === "here" && view().loading === null && isQuietFor(QUIET_MS);

async function read(): Promise<void> {
  if (!mayRead()) return;
  for (const id of await withoutText([...new Set([...listed(), ...inbox()])])) {
    if (!mayRead()) return;
    const path = `/messages/${id}`;
    await keepAnswer(path, await getText(path));
  }
}

/** Goes on for as long as the window is open. */
export function keepTextsAhead(): void {
  const again = (ms: number): void =>
    void setTimeout(
      () =>
        whenIdle(() => {
          // A message that cannot be read now is read another time.
          void read()
            .catch(() => undefined)
            .then(() => again(LOOK_EVERY_MS));
        }),
      ms,
    );
  again(BEGIN_MS);
}
