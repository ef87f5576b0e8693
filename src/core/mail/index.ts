export { readMailDate } from "./date";
export { leaveHeaders, leaveWays, type LeaveWays } from "./leave";
export { textOfHtml } from "./html";
export { otherEnds, wireSize } from "./line-ends";
export { mailFileOf, withoutTop, type MailFile, type MailFlags } from "./maildir";
export { MboxSplitter, mboxEntry, MOST_MESSAGE_BYTES, type MboxItem, type MboxProblem } from "./mbox";
export {
  HEAD_FIELDS,
  cluesOf,
  flawText,
  isComing,
  isHeavy,
  keysOf,
  parseHead,
  parseMessage,
  parseWithText,
  readHead,
  readParts,
  textOf,
  viaOf,
  type Address,
  type Flaw,
  type Keys,
  type Parsed,
  type Parts,
} from "./message";
