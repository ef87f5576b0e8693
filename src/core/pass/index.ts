export { minutesLeft, paceOf, type Pace } from "./pace";
export { progressOf, type Deed, type Progress } from "./progress";
export { endOf, type PassEnd } from "./end";
export { jumpIn, type Jump } from "./jump";
