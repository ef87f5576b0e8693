export {
  aboutSecret,
  accountsToAsk,
  findAccount,
  ensureSimulated,
  gatewayOf,
  moveMark,
  noteTrouble,
  noteWell,
  serverAccounts,
  type Account,
  type ServerAccount,
} from "./accounts";
export { carrierOf } from "./carrier";
export { fateOf, type Comes } from "./deliver";
export { GatewayAway, type Carrier, type Gateway, type LeaveOutcome, type Pulled, type SendOutcome } from "./gateway";
export {
  find,
  Imap,
  isInside,
  isLoopback,
  postLeave,
  Refused,
  setOf,
  trySmtp,
  type MailboxState,
  type RemoteFlags,
  type RemoteHead,
  type RemoteMailbox,
  type RemoteMessage,
} from "./internet";
export { askToLeave } from "./leave";
export { REPORT_KEYWORD, tellSimulated } from "./report";
export { NoKey, seal, unseal } from "./secret";
export { fetchToken, heldOf, isSafe, openingOf, sealHeld, type Held } from "./token";
export { receiveDue, type Correspondents, type Received } from "./simulated";
