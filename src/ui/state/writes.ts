/** Writes of settings, rules and places in the order they were made, and reading that must not come between them. */
class Writes {
  private line: Promise<unknown> = Promise.resolve();
  /** How many are on their way, and how many there ever were. */
  private under = 0;
  private count = 0;
  /** Called when the last one of a line is through. */
  whenThrough: () => void = () => undefined;

  async add<T>(send: () => Promise<T>): Promise<T> {
    this.under++;
    this.count++;
    const mine = this.line.then(send);
    this.line = mine.catch(() => undefined);
    try {
      return await mine;
    } finally {
      this.under--;
      if (this.under === 0) this.whenThrough();
    }
  }

  async through(): Promise<void> {
    do await this.line;
    while (this.under > 0);
  }

  /** Reads when no write is on its way. @returns null when one was made meanwhile: what was read is old */
  async between<T>(read: () => Promise<T>): Promise<T | null> {
    await this.through();
    const before = this.count;
    const got = await read();
    return this.under > 0 || this.count !== before ? null : got;
  }
}

export const writes = new Writes();

/** Sends writes one after another, so that the last one made is the last one stored. */
export const inLine = <T>(send: () => Promise<T>): Promise<T> => writes.add(send);

/** Reads what writes in line change, as it is behind all of them: what is shown does not go back for a moment. */
export async function readBehind<T>(read: () => Promise<T>): Promise<T> {
  for (;;) {
    const got = await writes.between(read);
    if (got !== null) return got;
  }
}
