import { closeSync, mkdirSync, openSync, writeFileSync, writeSync } from "node:fs";
import { join } from "node:path";
import { parseArgs } from "node:util";
import { mboxEntry } from "@/core/mail";
import { agendaAround } from "./agenda";
import { generate } from "./generate";
import { pastOf, type FiledMail } from "./past";
import { ALIASES, DOMAIN, OFFICE } from "./world";

/**
 * `demo --out DIR [--messages N] [--seed S] [--now ISO] [--agenda]`: one mbox a folder, and what the office starts
 * with; with what it has planned, where that is asked for.
 */
const { values } = parseArgs({
  options: {
    out: { type: "string" },
    messages: { type: "string", default: "12000" },
    seed: { type: "string", default: "7" },
    now: { type: "string" },
    agenda: { type: "boolean", default: false },
  },
});
const out = values.out;
if (!out) throw new Error("--out DIR is needed");

const ZONE = "Europe/Zurich";
const FOLDERS = [
  "Bookings",
  "Bookings/Groups",
  "Cancellations",
  "Supplies",
  "Wardens",
  "Weather",
  "Lost property",
  "Accounts",
  "Press",
  "Volunteers",
  "Committee",
  "Inspections",
  "Lists",
];
const LABELS = [
  ["Winter season", "slate"],
  ["Invoice", "amber"],
  ["Deadline", "brick"],
  ["Decision", "plum"],
  ["Confirmed", "spruce"],
] as const;

mkdirSync(out, { recursive: true });
const files = new Map<string, { path: string; fd: number; messages: number }>();
const now = values.now ? new Date(values.now) : new Date();
const filed: FiledMail[] = [];
for (const { folder, raw, sender, date, messageId } of generate({
  messages: Number(values.messages),
  seed: Number(values.seed),
  now,
})) {
  let file = files.get(folder);
  if (!file) {
    const path = join(out, `${folder.replace(/[^A-Za-z]+/g, "-").toLowerCase()}.mbox`);
    files.set(folder, (file = { path, fd: openSync(path, "w"), messages: 0 }));
  }
  filed.push({ messageId, folder, date });
  writeSync(file.fd, mboxEntry(raw, sender, date));
  file.messages++;
}
for (const { fd } of files.values()) closeSync(fd);
writeFileSync(
  join(out, "beginning.json"),
  JSON.stringify({
    name: OFFICE,
    address: `bookings@${DOMAIN}`,
    aliases: ALIASES.map((alias) => `${alias}@${DOMAIN}`),
    zone: ZONE,
    ...(values.agenda ? { agenda: agendaAround(now, ZONE) } : {}),
    folders: FOLDERS,
    labels: LABELS,
  }),
);
writeFileSync(join(out, "past.json"), JSON.stringify(pastOf(filed, now, Number(values.seed))));
// The inbox comes first, so that there is something to look at while the rest comes in.
const ordered = [...files].sort(([a], [b]) => Number(b === "Inbox") - Number(a === "Inbox"));
writeFileSync(
  join(out, "files.json"),
  JSON.stringify(ordered.map(([folder, { path, messages }]) => ({ folder, path, messages }))),
);
