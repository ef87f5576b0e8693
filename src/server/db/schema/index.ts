export * from "./owner";
export * from "./mail";
export * from "./ledger";
export * from "./jobs";
export * from "./accounts";
export * from "./answering";
export * from "./pass";
export * from "./filing";
