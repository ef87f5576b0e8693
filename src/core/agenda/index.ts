export { dueIn, groupAt, grouped, TASK_GROUPS, type Listed, type TaskGroup } from "./groups";
export { readTask, type Quick } from "./quick";
export { nextDue, readRepeat, REPEAT, repeatOf, repeatText, type Unit } from "./repeat";
