import { randomBytes } from "node:crypto";
import { writeFileSync } from "node:fs";
import { cpus } from "node:os";
import { AccountKeeper, ParsePool } from "@/server/jobs";
import { Log } from "@/server/watch";
import { startMailService } from "../fixtures/mail-service";
import { tableOf } from "./figures";
import { farFigures, seeing } from "./first-time";
import { emptyMailbox, machineOf } from "./mailbox";
import { SLOW } from "./slow-line";

/** A large account for the first time, over a line as accounts have it: it takes as long as the line does, twice. */
const [url, migrations, worker, count = "100000", out] = process.argv.slice(2);
if (!url || !migrations || !worker) throw new Error("usage: far URL MIGRATIONS WORKER [MESSAGES] [OUT.md]");

const USER = "far";
/** Beside what the demo world's have: the smaller messages are, the more of them the line brings. */
const BYTES = 8000;

process.env.TACHYNE_KEY ??= randomBytes(32).toString("base64");
const context = await emptyMailbox(url, migrations, 8);
const service = await startMailService([USER]);
const keeper = new AccountKeeper(context.db, () => new ParsePool(worker, cpus().length), new Log(() => {}));
const far = { user: USER, messages: Number(count), bytes: BYTES };
const figures = await farFigures(context, service, far, seeing(context, keeper));
await keeper.close();
await service.end();
const report = `${far.messages.toLocaleString("en")} messages of an account over ${SLOW}; ${await machineOf(context.db)}\n\n${tableOf(figures)}\n`;
console.log(report);
if (out) writeFileSync(out, report);
await context.db.close();
