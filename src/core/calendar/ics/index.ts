export { readIcs, type ReadEvent, type ReadIcs, type ReadTask } from "./read";
export { PRODUCT, writeIcs, type Shared } from "./write";
