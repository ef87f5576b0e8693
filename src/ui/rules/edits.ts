import type { HoursAnswer, HoursShape, RuleShape } from "@/core/api";
import { editsOf, inQuery, showIn } from "../state/keepsakes";
import { hours, reads, rules } from "../state/reads";

/** Changes of rules and hours. */

type Fields = Pick<RuleShape, "narrow" | "on" | "stop"> & { readonly macro: number };
type Changeable =
  "narrow" | "on" | "stop" | "macro" | "list" | "time" | "moreThan" | "outside" | "holdMinutes" | "look" | "remark";
type Patch = Partial<Pick<RuleShape, Changeable> & { readonly position: number }>;

const ofRules = editsOf<RuleShape>({ path: "/rules", ...inQuery(rules.queryKey) });

/** @returns whether it was stored */
export const makeRule = async (fields: Fields, name: string): Promise<boolean> =>
  (await ofRules.make(fields, name)) !== null;
/** @param position where it stands now, where that is changed */
export const changeRule = (rule: RuleShape, patch: Patch, name: string, position = 0): Promise<boolean> =>
  ofRules.change(rule, patch, name, { position });
export const removeRule = (rule: RuleShape): Promise<boolean> => ofRules.remove(rule, "Deleted the rule");

const ofHours = editsOf<HoursShape>({
  path: "/hours",
  latest: () => reads.getQueryData(hours.queryKey)?.hours,
  show: (change) => showIn<HoursAnswer>(hours.queryKey, (now) => ({ ...now, hours: change(now.hours) })),
  readAgain: () => void reads.invalidateQueries({ queryKey: hours.queryKey }),
});

/** Mornings and early afternoons of workdays: something to draw on. */
const USUAL = [0, 1, 2, 3, 4].flatMap((day) => [
  { day, from: 8 * 60, to: 9 * 60 },
  { day, from: 13 * 60, to: 13 * 60 + 30 },
]);

/** New hours for some mail: off at first, or mail would begin to wait while they are still being drawn. */
export const hoursFor = (narrow: string): Promise<HoursShape | null> =>
  ofHours.make({ narrow, through: null, week: USUAL, on: false }, "New hours, off until you switch them on");
export const changeHours = (one: HoursShape, patch: Partial<Omit<HoursShape, "id">>, name: string): Promise<boolean> =>
  ofHours.change(one, patch, name);
export const removeHours = (one: HoursShape): Promise<boolean> => ofHours.remove(one, "Deleted the hours");
