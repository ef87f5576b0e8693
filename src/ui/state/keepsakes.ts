import { write } from "./api";
import { perform } from "./edits";
import { inLine } from "./writes";

/** What is listed, changed and deleted, and comes back as it was: where it is, and how it is shown. */
interface Kept<T extends { readonly id: number }> {
  /** "/rules" */
  readonly path: string;
  readonly latest: () => readonly T[] | undefined;
  /** Shows at once what is on its way: the next key goes by what is seen. */
  readonly show: (change: (all: readonly T[]) => T[]) => void;
  /** Reads it again: also where a write was refused, what was shown at once is not so. */
  readonly readAgain: () => void;
  /** How a change looks in the list, where it is more than other fields. */
  readonly patched?: (all: readonly T[], id: number, patch: object) => T[];
}

const withFields = <T extends { readonly id: number }>(all: readonly T[], id: number, patch: object): T[] =>
  all.map((one) => (one.id === id ? { ...one, ...patch } : one));

/** Changes of such things: stored at once, and taken back in order with everything else. Each says whether it was stored. */
export function editsOf<T extends { readonly id: number }>({ path, latest, show, readAgain, ...kept }: Kept<T>) {
  const patched = kept.patched ?? withFields;
  const send = async <A>(method: "POST" | "PATCH" | "DELETE", at: string, body?: object): Promise<A> => {
    try {
      return await inLine(() => write<A>(method, at, body));
    } finally {
      readAgain();
    }
  };
  const drop = (id: number) => () => {
    show((all) => all.filter((one) => one.id !== id));
    return send("DELETE", `${path}/${id}`);
  };
  const bringBack = (id: number) => () => send("PATCH", `${path}/${id}`, { deleted: false });
  return {
    make(fields: object, name: string): Promise<boolean> {
      let id: number | null = null;
      return perform({
        name,
        forward: async () => {
          if (id === null) id = (await send<T>("POST", path, fields)).id;
          else await bringBack(id)();
        },
        backward: async () => {
          // It may still be on its way: what is in line before this is done first.
          await inLine(() => Promise.resolve());
          if (id !== null) await drop(id)();
        },
      });
    },
    /** @param extra fields that are no part of what is shown, as they are now */
    change<P extends object>(one: T, patch: P, name: string, extra: object = {}): Promise<boolean> {
      // As it is shown now, which is newer than what a row was drawn from.
      const was: object = { ...(latest()?.find(({ id }) => id === one.id) ?? one), ...extra };
      const before = Object.fromEntries(Object.keys(patch).map((key) => [key, was[key as keyof typeof was]]));
      const put = (body: object) => () => {
        show((all) => patched(all, one.id, body));
        return send("PATCH", `${path}/${one.id}`, body);
      };
      return perform({ name, forward: put(patch), backward: put(before) });
    },
    remove: ({ id }: T, name: string): Promise<boolean> =>
      perform({ name, forward: drop(id), backward: bringBack(id) }),
  };
}
