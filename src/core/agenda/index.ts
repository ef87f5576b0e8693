export { dueIn, groupAt, grouped, TASK_GROUPS, type Listed, type TaskGroup } from "./groups";
export { readTask, type Quick } from "./quick";
export { nextTime, readRepeat, REPEAT, repeatOf, repeatText, type Next, type Unit } from "./repeat";
