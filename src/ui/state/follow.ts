import type { EntryShape } from "@/core/api";
import { arrive, fetchMessages, mergePart, readLedger } from "./arrive";
import { eventsAddress, get, getIndex, Refused } from "./api";
import { relist } from "./browse";
import { readOutgoing } from "./compose";
import { noteHeld } from "./decide";
import {
  accounts,
  contacts,
  filing,
  hours,
  madeElsewhere,
  plannedElsewhere,
  reads,
  rules,
  senders,
  openTasks,
  tasks,
} from "./reads";
import { noteLearned } from "./guesses";
import { keepUpSoon } from "./keep-up";
import { noteLink } from "./link";
import { refreshSettings } from "./settings";
import { lookSignedIn } from "./signed-in";
import { mailbox } from "./store";
import { forgetWords } from "./words";

/** Messages that came in are gathered for a moment, since an import tells of them a hundred at a time. */
const GATHER_MS = 400;
/** The index of words goes on several times a second: as often nobody wants to be shown other results. */
const LOOK_AGAIN_MS = 2000;
/** In the stored form of a change: an edit of until when a message is deferred. */
const DEFER = '"kind":"defer"';

/** The same of calendars and of what is in them. */
const PLANNED = /"kind":"(?:event|calendar)"/;
const TASKED = /"kind":"task"/;
/** A task says whether the message it was made from is there. */
const GONE = /"kind":"(?:exists|gone)"/;

const RETRY_MS = 1000;

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

type Written = { readonly kind: "arrival"; readonly change: { readonly arrived?: number[] } };

/**
 * Keeps the window as the server is: takes its events one after another, each of which may have to wait for
 * rows to be read. One that cannot be applied makes it read what changed since the last that could.
 */
export class Follower {
  private line: Promise<void> = Promise.resolve();
  private arrived: number[] = [];
  private gathering = false;
  private lookingForWords = false;
  private wasOpen = false;

  /**
   * @param through the last write that the window holds
   * @param isOld whether that may be so long ago that the server has forgotten writes since
   * @param readAll brings the whole index anew, where the server does not know any more what changed; tells the
   *   write it goes to
   */
  constructor(
    private through: number,
    private isOld: boolean,
    private readonly readAll: () => Promise<number>,
  ) {}

  open(): void {
    const source = new EventSource(eventsAddress(this.through));
    // What is not numbered the server tells of as soon as nothing of it can be missed any more.
    source.onopen = () => {
      noteLink("here");
      if (this.isOld) this.line = this.line.then(() => this.catchUp());
      this.isOld = false;
      if (this.wasOpen) void this.moreWords();
      this.wasOpen = true;
    };
    source.addEventListener("written", (event) => {
      const seq = Number(event.lastEventId);
      this.line = this.line.then(() => this.take(seq, event.data as string));
    });
    source.addEventListener("settings", () => {
      void refreshSettings().catch(() => undefined);
      for (const { queryKey } of [senders, rules, hours, contacts]) void reads.invalidateQueries({ queryKey });
    });
    source.addEventListener("words", () => void this.moreWords());
    source.addEventListener("ledger", readLedger);
    source.addEventListener("outgoing", () => void readOutgoing().catch(() => undefined));
    source.addEventListener("filing", () => {
      noteLearned();
      void reads.invalidateQueries(filing);
    });
    source.addEventListener("accounts", () => void reads.invalidateQueries(accounts));
    source.onerror = () => {
      noteLink("away");
      // The browser connects again by itself unless it has given up.
      if (source.readyState !== EventSource.CLOSED) return;
      source.close();
      void lookSignedIn(() => get("/sign-in"));
      setTimeout(() => this.open(), RETRY_MS);
    };
  }

  private hold(seq: number): void {
    this.through = Math.max(this.through, seq);
    noteHeld(seq);
  }

  private async take(seq: number, text: string): Promise<void> {
    if (seq <= this.through) return;
    try {
      const data = JSON.parse(text) as Written | (EntryShape & { change: unknown });
      if (data.kind === "arrival") this.gather((data as Written).change.arrived ?? []);
      else await arrive(data as EntryShape & { change: unknown });
      this.hold(seq);
      keepUpSoon();
      madeElsewhere();
      // Calendars are larger: they are read anew only where something of theirs was written, not with each verdict.
      if (PLANNED.test(text)) plannedElsewhere();
      if (TASKED.test(text)) void reads.invalidateQueries(openTasks);
      // The strip over the list shows tasks always: a verdict that has nothing to do with them asks for nothing.
      if (TASKED.test(text) || GONE.test(text)) void reads.invalidateQueries(tasks);
      // What waits for its hours is deferred: other keys say nothing of it, and ask for nothing.
      if (data.kind === "arrival" || text.includes(DEFER)) void reads.invalidateQueries(hours);
    } catch (error) {
      console.error(error);
      await this.catchUp();
    }
  }

  /** Reads the rows of everything that changed since, as it is now; goes on trying until that is there. */
  private async catchUp(): Promise<void> {
    for (;;) {
      try {
        const { columns, gone, seq } = await getIndex({ since: String(this.through) });
        mergePart(() => {
          if (gone.length > 0) mailbox.remove(new Set(gone));
          mailbox.merge(columns);
        });
        this.hold(seq);
        break;
      } catch (error) {
        if (error instanceof Refused) {
          this.hold(await this.readAll());
          break;
        }
        await pause(RETRY_MS);
      }
    }
    keepUpSoon();
    relist();
    readLedger();
    void refreshSettings().catch(() => undefined);
  }

  private gather(ids: readonly number[]): void {
    this.arrived.push(...ids);
    if (this.gathering) return;
    this.gathering = true;
    setTimeout(() => {
      this.gathering = false;
      const now = this.arrived.splice(0);
      // What is written while their rows are on their way is taken in behind them: they may not have it.
      this.line = this.line.then(() => fetchMessages(now)).catch(() => this.gather(now));
    }, GATHER_MS);
  }

  /** More of the mail can be searched by its words: searches that are open are made again. */
  private async moreWords(): Promise<void> {
    if (this.lookingForWords) return;
    this.lookingForWords = true;
    await pause(LOOK_AGAIN_MS);
    this.lookingForWords = false;
    await refreshSettings()
      .then(() => {
        forgetWords();
        relist();
      })
      .catch(() => undefined);
  }
}
