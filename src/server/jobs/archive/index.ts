export { itemsOf, openArchive, type Incoming } from "./items";
export { openPacked } from "./packed";
export { bringNames, restoreStates } from "./restore";
export { bringThings } from "./things";
