import { isDeckNumber, type Deck } from "@/core/keys";
import type { Home } from "@/core/api";
import { folderId, labelId, markerId } from "@/core/id";
import { get } from "./api";
import { keepAnswer } from "./kept-answers";
import { relist } from "./browse";
import { calendars, correspondents, groups, identities, openTasks, plannedElsewhere, reads, tasks } from "./reads";
import { readInTurn } from "./read-in-turn";
import { mailbox, set, view } from "./store";
import { writes } from "./writes";

/** What is read about the person beside their messages, and writes of it, one after another. */

/** Shows settings as they are, or are about to be. */
export function showHome(home: Home): void {
  set({
    home,
    directory: {
      folders: home.folders.map(({ id, path, role }) => ({ id: folderId(id), path, role })),
      labels: home.labels.map((label) => ({ ...label, id: labelId(label.id) })),
      markers: home.markers.map((marker) => ({ ...marker, id: markerId(marker.id) })),
      accounts: home.accounts,
    },
    macros: home.macros,
    decks: home.decks.filter((deck) => isDeckNumber(deck.number)) as Deck[],
  });
}

export function takeHome(read: Home): void {
  const { home: now } = view();
  // Events may have told of later writes than the answer knows.
  const home = now && now.seq > read.seq ? { ...read, seq: now.seq, tasks: now.tasks } : read;
  for (const { queryKey } of [tasks, openTasks, calendars, identities, groups, correspondents])
    void reads.invalidateQueries({ queryKey });
  plannedElsewhere();
  mailbox.places = {
    folder: new Set(home.folders.map(({ id }) => id)),
    label: new Set(home.labels.map(({ id }) => id)),
  };
  showHome(home);
}

/**
 * Reads settings anew. What was read while the person changed something is old already, and is dropped: also
 * where the change was on its way when the reading began. The last write of a line reads once more.
 */
export const refreshSettings = readInTurn(
  async () => {
    const home = await writes.between(() => get<Home>("/home"));
    if (!home) return;
    void keepAnswer("/home", JSON.stringify(home));
    takeHome(home);
    relist();
  },
  // Who asks while a reading waits for writes is given the same.
  () => writes.through(),
);

writes.whenThrough = () => void refreshSettings().catch(() => undefined);
