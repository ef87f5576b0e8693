import type { PersonId } from "@/core/id";
import { Refusal } from "@/server/act";

/**
 * What one person may have under way at once in a process, with all their windows and programs: whatever they ask
 * for, it keeps nobody else's requests waiting for a connection to the database. What goes beyond waits in line, and
 * what would make the line too long is refused until it is shorter.
 */
export class Shares {
  private readonly lines = new Map<PersonId, { under: number; readonly waiting: Set<() => void> }>();

  /** @param atOnce of a person's, of ten connections @param inLine so many more may wait */
  constructor(
    private readonly atOnce = 4,
    private readonly inLine = 200,
  ) {}

  /**
   * Does the work once it is its turn.
   * @param gone aborted where whoever asked does not wait for it any more: then it is not done
   * @throws Refusal (429) where too many wait
   */
  async take<T>(person: PersonId, gone: AbortSignal, work: () => Promise<T>): Promise<T> {
    const line = this.lines.get(person) ?? { under: 0, waiting: new Set() };
    this.lines.set(person, line);
    if (line.under < this.atOnce) line.under++;
    else {
      if (line.waiting.size >= this.inLine)
        throw new Refusal(429, "Too much at once", `${this.inLine} requests of yours wait already: ask one by one.`, {
          code: "too-much",
          after: 1,
        });
      await this.turn(line.waiting, gone);
    }
    try {
      return await work();
    } finally {
      const [next] = line.waiting;
      // Whoever is next takes over the place.
      if (next) next();
      else if (--line.under === 0) this.lines.delete(person);
    }
  }

  private turn(waiting: Set<() => void>, gone: AbortSignal): Promise<void> {
    return new Promise((resolve, reject) => {
      const go = () => {
        waiting.delete(go);
        gone.removeEventListener("abort", leave);
        resolve();
      };
      const leave = () => {
        waiting.delete(go);
        reject(new Refusal(408, "Not waited for", "Whoever asked has gone."));
      };
      if (gone.aborted) return leave();
      waiting.add(go);
      gone.addEventListener("abort", leave, { once: true });
    });
  }
}

/** Kept on globalThis, since routes may be bundled apart from each other. */
const slot = globalThis as typeof globalThis & { tachyneShares?: Shares };

export const shares = (): Shares => (slot.tachyneShares ??= new Shares());
