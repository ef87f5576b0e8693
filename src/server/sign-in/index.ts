export { attempt, forget, type Attempt } from "./attempts";
export { base32, codeAt, newPaperCodes, newSecret, stepAt, takeCode } from "./codes";
export {
  addPasskey,
  askForPasskey,
  askForSignature,
  listPasskeys,
  removePasskey,
  whoSigned,
  type Site,
} from "./passkeys";
export { makeOnce, takeOnce } from "./once";
export { hashPassword, isPassword } from "./passwords";
export {
  endOthers,
  endSession,
  isProved,
  listSessions,
  LONGEST_DAYS,
  noteProved,
  openSession,
  whose,
} from "./sessions";
export { endOld } from "./tidy";
export { endToken, listTokens, makeToken, whoseToken } from "./tokens";
