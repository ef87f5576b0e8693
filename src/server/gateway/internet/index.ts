export { find } from "./find";
export {
  Imap,
  isLoopback,
  Refused,
  setOf,
  type MailboxState,
  type RemoteFlags,
  type RemoteHead,
  type RemoteMailbox,
  type RemoteMessage,
} from "./imap";
export { isInside, postLeave } from "./leave";
export { saidOf } from "./said";
export { sendBySmtp, trySmtp } from "./smtp";
