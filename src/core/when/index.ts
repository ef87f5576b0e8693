export { DAY_STARTS_AT_HOUR, readWhen, type When } from "./when";
export { addDays, addMonths, instantOf, wallIn, weekdayOf, type Wall } from "./zone";
export { sameDay, wallText, weeksOf } from "./month";
export {
  dayName,
  DAYS,
  minuteText,
  opensAt,
  opensTogether,
  PART_MINUTES,
  PARTS_A_DAY,
  partsOf,
  USUAL_WORK_HOURS,
  weekOf,
  weekText,
  type Parts,
  type Stretch,
  type Week,
} from "./week";
