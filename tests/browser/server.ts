import { spawn, type ChildProcess } from "node:child_process";
import { randomBytes } from "node:crypto";
import { createServer } from "node:net";
import postgres from "postgres";
import { ROOT, serverUrl, templateOf } from "./prepare";

const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

const LOOK_EVERY_MS = 50;
const PATIENCE_MS = 90_000;

/**
 * More than the process has connections to its database, which it takes in turn: each of them has been asked by then,
 * and what was connected to the database before has been met and is gone.
 */
const OF_EACH_CONNECTION = 12;

/** Waits until an address answers, so many times one after another. */
async function answers(address: string, times = 1): Promise<void> {
  const ok = () =>
    fetch(address).then(
      (answer) => answer.ok,
      () => false,
    );
  const began = Date.now();
  for (let inARow = 0; inARow < times;) {
    const isOk = await ok();
    inARow = isOk ? inARow + 1 : 0;
    if (Date.now() - began > PATIENCE_MS) throw new Error(`nothing answers at ${address}`);
    if (!isOk) await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
}

/**
 * The web process of one worker. Starting one takes longer than most tests do; so it stays, and between two tests its
 * database is exchanged for another one of the same name, as if a server of PostgreSQL's had been started anew with
 * other files. What tests do to the process itself ends with the test: the next one finds it running.
 */
export class Server {
  readonly database: string;
  readonly env: NodeJS.ProcessEnv;
  private web: ChildProcess | null = null;
  private readonly admin = postgres(serverUrl("postgres"), { max: 1, onnotice: () => {} });

  private constructor(
    private readonly name: string,
    private readonly port: number,
    private readonly keptOpen: readonly string[],
  ) {
    this.database = serverUrl(name);
    this.env = {
      ...process.env,
      DATABASE_URL: this.database,
      TACHYNE_KEY: randomBytes(32).toString("base64"),
      NODE_ENV: "production",
      NEXT_TELEMETRY_DISABLED: "1",
    };
  }

  static async make(): Promise<Server> {
    const { KEPT_OPEN } = (await import("../../scripts/setup/web.mjs" as string)) as { KEPT_OPEN: string[] };
    return new Server(`b_${randomBytes(5).toString("hex")}`, await freePort(), KEPT_OPEN);
  }

  get address(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  /** @param args of node @returns the process, with the server's database */
  run(...args: string[]): ChildProcess {
    return spawn(process.execPath, args, { cwd: ROOT, env: this.env, stdio: ["ignore", "ignore", "inherit"] });
  }

  async start(): Promise<void> {
    const where = ["-H", "127.0.0.1", "-p", String(this.port), ...this.keptOpen];
    this.web ??= this.run("node_modules/next/dist/bin/next", "start", ...where);
    await this.isReady();
  }

  private isReady(times?: number): Promise<void> {
    return answers(`${this.address}/api/v1/ready`, times);
  }

  async stop(): Promise<void> {
    await kill(this.web);
    this.web = null;
  }

  /** A copy of a template that nobody has yet. @returns its name, for `exchange` */
  async prepare(messages: number): Promise<string> {
    const copy = `${this.name}_${randomBytes(3).toString("hex")}`;
    await this.admin.unsafe(`create database ${copy} template ${templateOf(messages)}`);
    const sql = postgres(serverUrl(copy), { max: 1, onnotice: () => {} });
    // What processes hold in memory of what was learned is of an epoch; each copy is one of its own.
    await sql`update filing set epoch = gen_random_uuid()`;
    await sql.end();
    return copy;
  }

  /** Puts a prepared copy in the place of what the process works on, and lets it start where it does not run. */
  async exchange(copy: string): Promise<void> {
    await this.admin.unsafe(`drop database if exists ${this.name} with (force)`);
    await this.admin.unsafe(`alter database ${copy} rename to ${this.name}`);
    await this.start();
    await this.isReady(OF_EACH_CONNECTION);
  }

  /** Takes away a copy that nobody wants any more. */
  async drop(copy: string): Promise<void> {
    await this.admin.unsafe(`drop database if exists ${copy} with (force)`);
  }

  async end(): Promise<void> {
    await this.stop();
    await this.drop(this.name);
    await this.admin.end();
  }
}

/** @param process null where there is none */
export async function kill(process: ChildProcess | null): Promise<void> {
  if (!process || process.exitCode !== null || process.signalCode !== null) return;
  const ended = new Promise((resolve) => process.on("exit", resolve));
  process.kill("SIGKILL");
  await ended;
}
