export { atOnce, type Steps } from "./steps";
export { durationOf, printCalendar, timeOf, type Line, type Tree } from "./print";
export {
  all,
  first,
  offsetIn,
  parameterOf,
  readCalendar,
  secondsOf,
  stampOf,
  textOf,
  type Component,
  type Problem,
  type Property,
  type Stamp,
} from "./read";
