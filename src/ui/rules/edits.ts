import type { RuleShape } from "@/core/api";
import { write } from "../state/api";
import { perform } from "../state/edits";
import { reads, rules } from "../state/reads";
import { inLine } from "../state/writes";

/** Changes of rules: stored at once, and taken back in order with everything else. */

type Fields = Pick<RuleShape, "narrow" | "on" | "stop"> & { readonly macro: number };

async function send<T>(method: "POST" | "PATCH" | "DELETE", path: string, body?: object): Promise<T> {
  try {
    return await inLine(() => write<T>(method, path, body));
  } finally {
    // Also where it was refused: what was shown at once is not so.
    void reads.invalidateQueries({ queryKey: rules.queryKey });
  }
}

/** @returns whether it was stored */
export function makeRule(fields: Fields, name: string): Promise<boolean> {
  let id: number | null = null;
  return perform({
    name,
    forward: async () => {
      if (id === null) id = (await send<RuleShape>("POST", "/rules", fields)).id;
      else await bringBack(id)();
    },
    backward: async () => {
      // It may still be on its way: what is in line before this is done first.
      await inLine(() => Promise.resolve());
      if (id !== null) await remove(id)();
    },
  });
}

/** A rule as it is shown now, which is newer than what a row was drawn from. */
const latest = (rule: RuleShape): RuleShape =>
  reads.getQueryData(rules.queryKey)?.find(({ id }) => id === rule.id) ?? rule;

/** Shows at once what is on its way: the next key goes by what is seen. */
function show(change: (all: readonly RuleShape[]) => RuleShape[]): void {
  // What is being read is old by now, and must not come back over it.
  void reads.cancelQueries({ queryKey: rules.queryKey }, { revert: false });
  reads.setQueryData(rules.queryKey, (all) => all && change(all));
}

type Patch = Partial<Fields & { readonly position: number }>;

function patched(all: readonly RuleShape[], id: number, { position, ...fields }: Patch): RuleShape[] {
  const next = all.map((rule) => (rule.id === id ? { ...rule, ...fields } : rule));
  const from = next.findIndex((rule) => rule.id === id);
  if (position !== undefined && from >= 0) next.splice(position, 0, ...next.splice(from, 1));
  return next;
}

/** @param position where it stands now, where that is changed */
export function changeRule(rule: RuleShape, patch: Patch, name: string, position = 0): Promise<boolean> {
  const was = { ...latest(rule), position };
  const before = Object.fromEntries(Object.keys(patch).map((key) => [key, was[key as keyof Patch]])) as Patch;
  const put = (body: Patch) => () => {
    show((all) => patched(all, rule.id, body));
    return send("PATCH", `/rules/${rule.id}`, body);
  };
  return perform({ name, forward: put(patch), backward: put(before) });
}

const remove = (id: number) => () => {
  show((all) => all.filter((one) => one.id !== id));
  return send("DELETE", `/rules/${id}`);
};
const bringBack = (id: number) => () => send("PATCH", `/rules/${id}`, { deleted: false });

export const removeRule = ({ id }: RuleShape): Promise<boolean> =>
  perform({ name: "Deleted the rule", forward: remove(id), backward: bringBack(id) });
