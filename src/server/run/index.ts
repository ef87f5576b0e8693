export { apply, type Doing } from "./apply";
export { readDirectory, readNames, type Names } from "./directory";
export { readMacros, settleNames } from "./macros";
export { prepare, readAhead, type Asked, type Prepared } from "./planning";
export { badNarrow, notFound, Refusal, type RefusalCode } from "./refusal";
export { BY_PERSON, run, type By, type Ran } from "./run";
export { keepingDays, readSettings, type Settings } from "./settings";
export { everybody, inTurn, type Who } from "./turn";
export { takeBack, type BackKind } from "./undo";
