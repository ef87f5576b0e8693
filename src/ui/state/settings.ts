import { isDeckNumber, type Deck } from "@/core/keys";
import type { Home } from "@/core/api";
import { folderId, labelId, markerId } from "@/core/id";
import { get } from "./api";
import { keepAnswer } from "./kept-answers";
import { relist } from "./browse";
import { correspondents, groups, identities, reads, tasks } from "./reads";
import { mailbox, set, view } from "./store";

/** What is read about the person beside their messages, and writes of it, one after another. */

export function takeHome(read: Home): void {
  const { home: now } = view();
  // Events may have told of later writes than the answer knows.
  const home = now && now.seq > read.seq ? { ...read, seq: now.seq, tasks: now.tasks } : read;
  for (const { queryKey } of [tasks, identities, groups, correspondents]) void reads.invalidateQueries({ queryKey });
  mailbox.places = {
    folder: new Set(home.folders.map(({ id }) => id)),
    label: new Set(home.labels.map(({ id }) => id)),
  };
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

/** Writes of settings in the order they were made. */
class Writes {
  private line: Promise<unknown> = Promise.resolve();
  /** How many are on their way, and how many there ever were. */
  private under = 0;
  private count = 0;
  /** A reading that waits for the writes that are on their way. */
  private reading: Promise<unknown> | null = null;

  async add<T>(send: () => Promise<T>): Promise<T> {
    this.under++;
    this.count++;
    const mine = this.line.then(send);
    this.line = mine.catch(() => undefined);
    try {
      return await mine;
    } finally {
      this.under--;
      if (this.under === 0) void refreshSettings().catch(() => undefined);
    }
  }

  /**
   * Reads when no write is on its way; who asks while one waits to is given the same.
   * @returns null when a write was made meanwhile: what was read is old
   */
  between<T>(read: () => Promise<T>): Promise<T | null> {
    this.reading ??= this.readBetween(read);
    return this.reading as Promise<T | null>;
  }

  private async readBetween<T>(read: () => Promise<T>): Promise<T | null> {
    do await this.line;
    while (this.under > 0);
    this.reading = null;
    const before = this.count;
    const got = await read();
    return this.under > 0 || this.count !== before ? null : got;
  }
}

const writes = new Writes();

/** Sends writes of settings one after another, so that the last one made is the last one stored. */
export const inLine = <T>(send: () => Promise<T>): Promise<T> => writes.add(send);

/**
 * Reads settings anew. What was read while the person changed something is old already, and is dropped: also
 * where the change was on its way when the reading began. The last write of a line reads once more.
 */
export async function refreshSettings(): Promise<void> {
  const home = await writes.between(() => get<Home>("/home"));
  if (!home) return;
  void keepAnswer("/home", JSON.stringify(home));
  takeHome(home);
  relist();
}
