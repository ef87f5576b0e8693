export { readIcs, readIcsInSteps, type ReadEvent, type ReadIcs, type ReadTask } from "./read";
export { PRODUCT, writeIcs, writeIcsInSteps, type Shared } from "./write";
