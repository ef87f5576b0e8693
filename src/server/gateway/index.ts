export { accountsToAsk, ensureSimulated, gatewayOf, moveMark, noteTrouble, noteWell, type Account } from "./accounts";
export { GatewayAway, type Gateway, type Pulled } from "./gateway";
export { receiveDue, type Correspondent } from "./simulated";
