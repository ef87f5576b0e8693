/** Writes of settings, rules and places in the order they were made, and reading that must not come between them. */
export class Writes {
  private line: Promise<unknown> = Promise.resolve();
  /** What begins those that wait for others before them. */
  private readonly waiting = new Set<() => void>();
  private isLeft = false;
  /** How many are on their way, and how many there ever were. */
  private under = 0;
  private count = 0;
  /** Called when the last one of a line is through. */
  whenThrough: () => void = () => undefined;

  async add<T>(send: () => Promise<T>): Promise<T> {
    this.under++;
    this.count++;
    const mine = this.inTurn(send);
    this.line = Promise.allSettled([this.line, mine]);
    try {
      return await mine;
    } finally {
      this.under--;
      if (this.under === 0) this.whenThrough();
    }
  }

  private inTurn<T>(send: () => Promise<T>): Promise<T> {
    return new Promise((resolve, reject) => {
      const begin = () => {
        if (this.waiting.delete(begin)) (async () => send())().then(resolve, reject);
      };
      this.waiting.add(begin);
      if (this.isLeft) begin();
      else void this.line.then(begin);
    });
  }

  /** The window goes: what waits for an answer before it would never be sent, and is sent now, as is all that follows. */
  leave(): void {
    this.isLeft = true;
    for (const begin of [...this.waiting]) begin();
  }

  /** It came back as it was. */
  comeBack(): void {
    this.isLeft = false;
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

if (typeof window !== "undefined") {
  // Before all others that hear of it: what is in the field is stored by leaving it, as ever, and by then nothing waits.
  const leave = () => {
    writes.leave();
    const field = document.activeElement;
    if (field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement) field.blur();
  };
  window.addEventListener("pagehide", leave, { capture: true });
  window.addEventListener("pageshow", () => writes.comeBack());
}

/** Sends writes one after another, so that the last one made is the last one stored. */
export const inLine = <T>(send: () => Promise<T>): Promise<T> => writes.add(send);

/** Reads what writes in line change, as it is behind all of them: what is shown does not go back for a moment. */
export async function readBehind<T>(read: () => Promise<T>): Promise<T> {
  for (;;) {
    const got = await writes.between(read);
    if (got !== null) return got;
  }
}
