export {
  boundsOf,
  elsewhereIn,
  occurrences,
  spanAt,
  zoneOf,
  type Instead,
  type Occurrence,
  type Range,
} from "./expand";
export { comesAgain, editEvent, SCOPES, type EventEdit, type EventPatch, type Scope, type Series } from "./edit";
export { fit, roomBefore, type Fit, type Placed, type Proof, type Work } from "./fit";
export { firstFree, freeIn, GRAIN_MS, hoursIn, joined, offers, without, type Span } from "./free";
export { budget, troubleOf, type Budget } from "./rule";
export { DAY_MS, instantAt, isDay, isZone, readWall, wallAt, wallOf } from "./wall";
export { planTasks, USUAL_ESTIMATE, type Move, type OpenTask, type Plan, type Taken } from "./plan";
export { lanesOf, type Lane } from "./layout";
export { readEvent, ruleOf, type EventLine } from "./line";
export { offerText, ruleText, WORKDAYS } from "./words";
export {
  answered,
  INVITATION_KINDS,
  kindOf,
  ownReply,
  REPLY_WORDS,
  replyEvent,
  stillStands,
  withReply,
  type InvitationKind,
  type Invited,
} from "./invitation";
