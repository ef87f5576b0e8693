import type { HoursShape, RuleShape } from "@/core/api";
import { editsOf } from "../state/keepsakes";
import { hours, reads, rules } from "../state/reads";

/** Changes of rules and hours. */

type Fields = Pick<RuleShape, "narrow" | "on" | "stop"> & { readonly macro: number };
type Changeable =
  "narrow" | "on" | "stop" | "macro" | "list" | "time" | "moreThan" | "outside" | "holdMinutes" | "look" | "remark";
type Patch = Partial<Pick<RuleShape, Changeable> & { readonly position: number }>;

function patched(all: readonly RuleShape[], id: number, { position, ...fields }: Patch): RuleShape[] {
  const next = all.map((rule) => (rule.id === id ? { ...rule, ...fields } : rule));
  const from = next.findIndex((rule) => rule.id === id);
  if (position !== undefined && from >= 0) next.splice(position, 0, ...next.splice(from, 1));
  return next;
}

const ofRules = editsOf<RuleShape>({
  path: "/rules",
  latest: () => reads.getQueryData(rules.queryKey),
  show: (change) => {
    // What is being read is old by now, and must not come back over it.
    void reads.cancelQueries({ queryKey: rules.queryKey });
    reads.setQueryData(rules.queryKey, (all) => all && change(all));
  },
  readAgain: () => void reads.invalidateQueries({ queryKey: rules.queryKey }),
  patched,
});

/** @returns whether it was stored */
export const makeRule = (fields: Fields, name: string): Promise<boolean> => ofRules.make(fields, name);
/** @param position where it stands now, where that is changed */
export const changeRule = (rule: RuleShape, patch: Patch, name: string, position = 0): Promise<boolean> =>
  ofRules.change(rule, patch, name, { position });
export const removeRule = (rule: RuleShape): Promise<boolean> => ofRules.remove(rule, "Deleted the rule");

const ofHours = editsOf<HoursShape>({
  path: "/hours",
  latest: () => reads.getQueryData(hours.queryKey)?.hours,
  show: (change) => {
    void reads.cancelQueries({ queryKey: hours.queryKey });
    reads.setQueryData(hours.queryKey, (now) => now && { ...now, hours: change(now.hours) });
  },
  readAgain: () => void reads.invalidateQueries({ queryKey: hours.queryKey }),
});

/** Mornings and early afternoons of workdays: something to draw on. */
const USUAL = [0, 1, 2, 3, 4].flatMap((day) => [
  { day, from: 8 * 60, to: 9 * 60 },
  { day, from: 13 * 60, to: 13 * 60 + 30 },
]);

/** New hours for some mail: off at first, or mail would begin to wait while they are still being drawn. */
export const hoursFor = (narrow: string): Promise<boolean> =>
  ofHours.make({ narrow, through: null, week: USUAL, on: false }, "New hours, off until you switch them on");
export const changeHours = (one: HoursShape, patch: Partial<Omit<HoursShape, "id">>, name: string): Promise<boolean> =>
  ofHours.change(one, patch, name);
export const removeHours = (one: HoursShape): Promise<boolean> => ofHours.remove(one, "Deleted the hours");
