import { Worker } from "node:worker_threads";
import type { Parts } from "@/core/mail";
import type { Given, ParseAnswer, ParsedItem, ParseRequest, What, WordsItem } from "./parse-worker";

/**
 * What one message may cost before it is taken in with its headers only. Real mail of 25 MB takes under two
 * seconds; what takes longer was made to (a boundary that never ends took 50 s, blank lines 3.4 GB).
 */
export interface Budget {
  /** Of the processor's: on a machine that is busy with other things, a message may take longer by the clock. */
  readonly ms: number;
  /** Of the thread's heap, which holds one message at a time. */
  readonly megabytes: number;
}

const BUDGET: Budget = { ms: 10_000, megabytes: 512 };
/** By the clock so many times as long at the most: a thread may wait for something that never comes. */
const MOST_WAITED = 6;

/** What this process has had of the processor, all threads together, in milliseconds. */
function spentMs(): number {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1000;
}

/** How far a thread had come when it was looked at last. */
interface Seen {
  /** The message it was at, counted from its beginning, and since when. */
  readonly begun: number;
  readonly at: number;
  /** What had been spent then. */
  readonly spent: number;
  /** Whether the worker has begun with any: how long one takes to come to be is no message's fault. */
  readonly hasBegun: boolean;
}

const seeing = (begun: number, hasBegun: boolean): Seen => ({ begun, at: Date.now(), spent: spentMs(), hasBegun });

interface Task {
  readonly batch: number;
  readonly what: What;
  readonly raws: readonly Uint8Array[];
  readonly heavy: Set<number>;
  readonly nowMs: number;
  readonly resolve: (items: ParseAnswer["items"]) => void;
  readonly reject: (error: Error) => void;
}

/** A thread, the tasks it has been given, and how far it has come with the first of them. */
interface Thread {
  worker: Worker | null;
  readonly tasks: Task[];
  readonly progress: Int32Array;
  seen: Seen;
}

/**
 * Parses messages in worker threads, batch by batch; answers come in the order they are ready. A message that
 * costs more than the budget ends its thread: another goes on with the batch, and reads only the headers of
 * that one.
 */
export class ParsePool {
  private readonly threads: Thread[];
  private readonly watch: NodeJS.Timeout;
  private next = 0;
  private closed = false;

  /**
   * @param file the built worker, `dist/parse-worker.mjs`
   * @param lasts whether the process may end while it is there: then nobody closes it
   */
  constructor(
    private readonly file: string,
    readonly size: number,
    private readonly budget: Budget = BUDGET,
    private readonly lasts = false,
  ) {
    this.threads = Array.from({ length: size }, () => {
      const progress = new Int32Array(new SharedArrayBuffer(8));
      const thread: Thread = { worker: null, tasks: [], progress, seen: seeing(0, false) };
      this.start(thread);
      return thread;
    });
    this.watch = setInterval(() => this.look(), Math.min(500, budget.ms / 4));
    this.watch.unref();
  }

  private start(thread: Thread): void {
    const worker = new Worker(this.file, {
      resourceLimits: { maxOldGenerationSizeMb: this.budget.megabytes },
    });
    if (this.lasts) worker.unref();
    thread.worker = worker;
    thread.seen = seeing(thread.progress[1]!, false);
    worker.on("message", ({ batch, items }: ParseAnswer) => {
      const at = thread.tasks.findIndex((task) => task.batch === batch);
      thread.tasks.splice(at, 1)[0]?.resolve(items);
    });
    // Out of memory is told as an error; the exit that follows it is what is acted on.
    worker.on("error", () => undefined);
    worker.on("exit", () => this.ended(thread, worker));
    for (const task of thread.tasks) this.send(thread, task);
  }

  private send({ worker, progress }: Thread, { batch, what, raws, heavy, nowMs }: Task): void {
    worker?.postMessage({ batch, what, raws, heavy: [...heavy], nowMs, progress } satisfies ParseRequest);
  }

  /** A thread is over: the message it was at was too much for it, and the rest is done by another. */
  private ended(thread: Thread, worker: Worker): void {
    if (this.closed || thread.worker !== worker) return;
    const [task] = thread.tasks;
    const at = Atomics.load(thread.progress, 0);
    if (task?.heavy.has(at)) {
      thread.tasks.shift();
      task.reject(new Error("a parsing thread ended on a message of which it read only the headers"));
    } else task?.heavy.add(at);
    this.start(thread);
  }

  /** Ends threads that have been at one message for too long. */
  private look(): void {
    for (const thread of this.threads) {
      const { seen } = thread;
      const begun = Atomics.load(thread.progress, 1);
      const hasBegun = seen.hasBegun || begun !== seen.begun;
      if (thread.tasks.length === 0 || begun !== seen.begun) thread.seen = seeing(begun, hasBegun);
      else if (hasBegun && this.isTooLong(seen)) {
        thread.seen = seeing(begun, hasBegun);
        void thread.worker?.terminate();
      }
    }
  }

  private isTooLong({ at, spent }: Seen): boolean {
    const { ms } = this.budget;
    const waited = Date.now() - at;
    return (waited > ms && spentMs() - spent > ms) || waited > ms * MOST_WAITED;
  }

  parse(raws: readonly Uint8Array[], now: Date): Promise<readonly ParsedItem[]> {
    return this.ask("messages", raws, [], now);
  }

  /** The words of messages. @param heavy those of which only the headers are to be read, by their places */
  words(raws: readonly Uint8Array[], heavy: readonly number[], now: Date): Promise<readonly WordsItem[]> {
    return this.ask("words", raws, heavy, now);
  }

  /** The parts of a message, or its headers alone where it costs more than the budget: a flaw says so. */
  async parts(raw: Uint8Array): Promise<Parts> {
    return (await this.ask("parts", [raw], [], new Date()))[0]!;
  }

  private ask<W extends What>(
    what: W,
    raws: readonly Uint8Array[],
    heavy: readonly number[],
    now: Date,
  ): Promise<readonly Given[W][]> {
    const batch = this.next++;
    // One that is at a message which was made to take for ever has its tasks still.
    const thread = this.threads.reduce((least, one) => (one.tasks.length < least.tasks.length ? one : least));
    return new Promise((resolve, reject) => {
      const task: Task = {
        batch,
        what,
        raws,
        heavy: new Set(heavy),
        nowMs: now.getTime(),
        resolve: resolve as Task["resolve"],
        reject,
      };
      thread.tasks.push(task);
      this.send(thread, task);
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    clearInterval(this.watch);
    for (const { tasks } of this.threads)
      for (const task of tasks.splice(0)) task.reject(new Error("the parsing threads were ended"));
    await Promise.all(this.threads.map(({ worker }) => worker?.terminate()));
  }
}
