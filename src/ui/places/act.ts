import { write } from "../state/api";
import { perform } from "../state/edits";
import { refreshSettings } from "../state/settings";
import { byHand } from "../state/hands";
import { inLine } from "../state/writes";
import { notify } from "../state/store";

type Method = "POST" | "PATCH" | "DELETE";

/**
 * Sends a change of places, and says what came of it.
 * @returns whether it was done
 */
export async function change(method: Method, path: string, body: unknown, done: string): Promise<boolean> {
  try {
    await byHand(() => write(method, path, body));
    await refreshSettings();
    notify(done);
    return true;
  } catch (error) {
    notify(error instanceof Error ? error.message : "It could not be stored. Try again.", "trouble");
    return false;
  }
}

/**
 * The same for a change that undo takes back by writing what was before.
 * @param before what the fields were that are written
 * @param show shows the fields as they are to be, at once, where what is shown is no part of the settings
 */
export async function alter<T extends object>(
  path: string,
  before: T,
  after: T,
  name: string,
  show: (fields: T) => void = () => undefined,
): Promise<boolean> {
  const put = (body: T) => async () => {
    show(body);
    await inLine(() => write("PATCH", path, body));
    await refreshSettings();
  };
  return perform({ name, forward: put(after), backward: put(before) });
}

/**
 * Makes a folder or label, which undo takes away again while no mail is in it.
 * @param trouble says why it could not be made, where that is not to be in the notice
 * @returns whether it was stored
 */
export function make(kind: "folder" | "label", name: string, trouble?: (words: string) => void): Promise<boolean> {
  const [path, body] = kind === "folder" ? ["/folders", { path: name }] : ["/labels", { name }];
  let made: { readonly id: number } | null = null;
  const put = (deleted: boolean) => inLine(() => write("PATCH", `${path}/${made!.id}`, { deleted }));
  const edit = {
    name: `The ${kind} ${name} is made`,
    forward: async () => {
      if (made) await put(false);
      else made = await inLine(() => write<{ id: number }>("POST", path, body));
      await refreshSettings();
    },
    backward: async () => {
      // It may still be on its way.
      await inLine(() => Promise.resolve());
      if (made) await put(true);
      await refreshSettings();
    },
  };
  return perform(edit, trouble);
}
