export { DAY_STARTS_AT_HOUR, readWhen, type When } from "./when";
export { addDays, addMonths, instantOf, wallIn, weekdayOf, type Wall } from "./zone";
export { sameDay, wallText, weeksOf } from "./month";
