import type { TemplateShape } from "@/core/api";
import { EMPTY_DOC } from "@/core/letter";
import { get, write } from "../state/api";
import { perform } from "../state/edits";
import { refreshSettings } from "../state/settings";
import { inLine, readBehind } from "../state/writes";

/** Changes of templates, each of which is taken back by one key. */

type Fields = Omit<TemplateShape, "id">;

/** What was deleted and brought back has another number: under its first one it is still meant. */
const later = new Map<number, number>();
function idNow(id: number): number {
  let now = id;
  for (let next = later.get(now); next !== undefined; next = later.get(now)) now = next;
  return now;
}

let last: Promise<unknown> = Promise.resolve();
/** Each begins when the one before it is through: only then is known which number is meant. */
const inOrder =
  <T>(work: () => Promise<T>): (() => Promise<T>) =>
  () => {
    const mine = last.then(work);
    last = mine.catch(() => undefined);
    return mine;
  };

async function send<T>(method: "POST" | "PATCH" | "DELETE", path: string, body?: object): Promise<T> {
  const answer = await inLine(() => write<T>(method, path, body));
  await refreshSettings();
  return answer;
}

/** @returns what it was, with all that was written in it until now */
async function takeAway(id: number): Promise<Fields> {
  const now = idNow(id);
  const found = (await readBehind(() => get<TemplateShape[]>("/templates"))).find((one) => one.id === now);
  if (!found) throw new Error("It is gone already.");
  await send("DELETE", `/templates/${now}`);
  const { id: _, ...fields } = found;
  return fields;
}

async function bringBack(id: number, fields: Fields): Promise<void> {
  const made = await send<TemplateShape>("POST", "/templates", fields);
  later.set(idNow(id), made.id);
}

/** @returns its number; null where it could not be made */
export async function makeTemplate(name: string): Promise<number | null> {
  let id: number | null = null;
  let fields: Fields = { name, folder: "", subject: "", body: EMPTY_DOC };
  const isMade = await perform({
    name: `Made “${name}”`,
    forward: inOrder(async () => {
      if (id !== null) return bringBack(id, fields);
      id = (await send<TemplateShape>("POST", "/templates", fields)).id;
    }),
    backward: inOrder(async () => {
      fields = await takeAway(id!);
    }),
  });
  return isMade ? id : null;
}

export function removeTemplate({ id, ...shown }: TemplateShape): Promise<boolean> {
  let fields: Fields = shown;
  return perform({
    name: `Deleted “${shown.name}”`,
    forward: inOrder(async () => {
      fields = await takeAway(id);
    }),
    backward: inOrder(() => bringBack(id, fields)),
  });
}

export function renameTemplate({ id, name }: TemplateShape, next: string): Promise<boolean> {
  const put = (name: string) => inOrder(() => send("PATCH", `/templates/${idNow(id)}`, { name }));
  return perform({ name: `Renamed to “${next}”, in macros too`, forward: put(next), backward: put(name) });
}

export function putTemplate({ id, name, folder }: TemplateShape, next: string): Promise<boolean> {
  const put = (folder: string) => inOrder(() => send("PATCH", `/templates/${idNow(id)}`, { folder }));
  const said = next === "" ? `Put “${name}” into no folder` : `Put “${name}” into ${next}`;
  return perform({ name: said, forward: put(next), backward: put(folder) });
}
