export { writeCsv, type Cell } from "./csv";
export { dayText, readDay } from "./day";
export { AGES, backlogs, type Backlog, type Day, type Stays } from "./backlog";
export { BY_KEY, byHand, saved, type Effort } from "./effort";
export { byDay, byWeek, mondayOf, usualWeek, weekdayOf, type HourCount, type WeekCount } from "./flow";
export { forecast, LEAST_DAYS, paceNeeded, type Forecast, type Needed, type Range } from "./forecast";
export { addWaits, startOf, stepOf, waitWithin, type Waits } from "./wait";
export { follow, ofPace, type Moment, type Stay, type Whereabouts } from "./stays";
