import type { QueryKey } from "@tanstack/react-query";
import type { Home } from "@/core/api";
import { write } from "./api";
import { perform, type Edit } from "./edits";
import { reads } from "./reads";
import { refreshSettings, showHome } from "./settings";
import { view } from "./store";
import { inLine } from "./writes";

interface Numbered {
  readonly id: number;
}

/** Where a list is, and how it is shown. */
interface Kept<T extends Numbered> {
  /** "/rules" */
  readonly path: string;
  readonly latest: () => readonly T[] | undefined;
  /** Shows at once what is on its way: the next key goes by what is seen. */
  readonly show: (change: (all: readonly T[]) => T[]) => void;
  /** Reads it again: also where a write was refused, what was shown at once is not so. */
  readonly readAgain: () => void;
}

/** Shows at once what is on its way. What was not read yet is read anew: what is being read is old by now. */
export function showIn<A>(queryKey: QueryKey, change: (now: A) => A): void {
  const ended = reads.cancelQueries({ queryKey });
  const now = reads.getQueryData<A>(queryKey);
  if (now === undefined) void ended.then(() => reads.invalidateQueries({ queryKey }));
  else reads.setQueryData<A>(queryKey, change(now));
}

/** A list that a query reads. */
export const inQuery = <T extends Numbered>(queryKey: QueryKey): Omit<Kept<T>, "path"> => ({
  latest: () => reads.getQueryData<T[]>(queryKey),
  show: (change) => showIn<T[]>(queryKey, change),
  readAgain: () => void reads.invalidateQueries({ queryKey }),
});

/** A list that is read with all settings. */
export const inHome = <K extends "batches" | "markers" | "templates">(key: K): Omit<Kept<Home[K][number]>, "path"> => ({
  latest: () => view().home?.[key],
  show: (change) => {
    const { home } = view();
    if (home) showHome({ ...home, [key]: change(home[key]) });
  },
  readAgain: () => void refreshSettings().catch(() => undefined),
});

/** With other fields, and at another place where a patch says so. */
function patched<T extends Numbered>(all: readonly T[], id: number, patch: { readonly position?: number }): T[] {
  const next = all.map((one) => (one.id === id ? { ...one, ...patch } : one));
  const from = next.findIndex((one) => one.id === id);
  if (patch.position !== undefined && from >= 0) next.splice(patch.position, 0, ...next.splice(from, 1));
  return next;
}

/** Says what could not be stored where its notice would not be seen. */
type Trouble = (words: string) => void;

/** What is listed, changed and deleted: stored at once, and taken back in order with everything else, as it was. */
export function editsOf<T extends Numbered>({ path, latest, show, readAgain }: Kept<T>) {
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
  /** One that is made, taken back and made again stays the same one. */
  const making = (fields: object): Omit<Edit, "name"> & { readonly made: () => T | null } => {
    let made: T | null = null;
    return {
      made: () => made,
      forward: async () => {
        if (made) return bringBack(made.id)();
        const one = await send<T>("POST", path, fields);
        made = one;
        show((all) => (all.some(({ id }) => id === one.id) ? [...all] : [...all, one]));
      },
      backward: async () => {
        // It may still be on its way: what is in line before this is done first.
        await inLine(() => Promise.resolve());
        if (made) await drop(made.id)();
      },
    };
  };
  return {
    /** @returns what was made; null where it was not stored */
    async make(fields: object, name: string, trouble?: Trouble): Promise<T | null> {
      const { made, ...both } = making(fields);
      return (await perform({ name, ...both }, trouble)) ? made() : null;
    },
    /** Several, which are taken back together. */
    makeAll(several: readonly object[], name: string): Promise<boolean> {
      const all = several.map(making);
      return perform({
        name,
        forward: async () => {
          for (const [i, one] of all.entries())
            await one.forward().catch(async (error: unknown) => {
              for (const before of all.slice(0, i).reverse()) await before.backward();
              throw error;
            });
        },
        backward: async () => {
          for (const one of [...all].reverse()) await one.backward();
        },
      });
    },
    /**
     * @param extra fields that are no part of what is shown, as they are now
     * @returns whether it was stored
     */
    change<P extends object>(one: T, patch: P, name: string, extra: object = {}, trouble?: Trouble): Promise<boolean> {
      // As it is shown now, which is newer than what a row was drawn from.
      const was: object = { ...(latest()?.find(({ id }) => id === one.id) ?? one), ...extra };
      const before = Object.fromEntries(Object.keys(patch).map((key) => [key, was[key as keyof typeof was]]));
      const put = (body: object) => () => {
        show((all) => patched(all, one.id, body));
        return send("PATCH", `${path}/${one.id}`, body);
      };
      return perform({ name, forward: put(patch), backward: put(before) }, trouble);
    },
    remove: ({ id }: T, name: string): Promise<boolean> =>
      perform({ name, forward: drop(id), backward: bringBack(id) }),
  };
}
