export { exceptFrom, lastingSubject, ofInbox, suggestionsFrom, type Pattern, type Suggestion } from "./conditions";
export { whyAttended } from "./unattended";
export { ruling, type Arrived, type Ruled } from "./ruling";
export { allOf, arrivedIn, joinMonths, VERDICTS, verdictOf, type Month, type Shares, type Verdict } from "./past";
export {
  dayName,
  DAYS,
  minuteText,
  opensAt,
  opensTogether,
  PART_MINUTES,
  PARTS_A_DAY,
  partsOf,
  weekOf,
  weekText,
  type Parts,
  type Stretch,
  type Week,
} from "./hours";
