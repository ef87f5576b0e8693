export { itemsOf, openArchive, type Incoming } from "./items";
export { openPacked } from "./packed";
export { bringNames, bringThings, restoreStates } from "./restore";
