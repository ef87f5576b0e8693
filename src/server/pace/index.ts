export {
  readAnswers,
  readHours,
  readMacroUse,
  readPasses,
  readSources,
  readStays,
  readWaits,
  type Scope,
  type SourceRow,
} from "./figures";
export { OPEN, PACE } from "./counts";
export { beginAgain, isBusy, keepPace, keepPaces } from "./keep";
