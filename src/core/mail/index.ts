export { readMailDate } from "./date";
export { textOfHtml } from "./html";
export { MboxSplitter, mboxEntry, MOST_MESSAGE_BYTES, type MboxItem, type MboxProblem } from "./mbox";
export { flawText, keysOf, parseMessage, readParts, textOf, type Address, type Flaw, type Parsed } from "./message";
