export {
  accountsToAsk,
  findAccount,
  ensureSimulated,
  gatewayOf,
  moveMark,
  noteTrouble,
  noteWell,
  type Account,
} from "./accounts";
export { fateOf, type Comes } from "./deliver";
export { GatewayAway, type Gateway, type Pulled, type SendOutcome } from "./gateway";
export { receiveDue, type Correspondents, type Received } from "./simulated";
