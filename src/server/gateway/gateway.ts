/** A message as a service has it, and the mark behind it: asked from there, it does not come again. */
export interface Pulled {
  readonly raw: Uint8Array;
  readonly mark: number;
}

/** The service cannot be asked now. What it has stays there, and is asked for again later. */
export class GatewayAway extends Error {
  override readonly name = "GatewayAway";
}

/** What a service can do. */
export interface Abilities {
  /** Whether it takes addresses and headers outside ASCII (SMTPUTF8, RFC 6531). */
  readonly utf8: boolean;
}

/** Whom a message is from and to, whatever its headers say (RFC 5321). */
export interface Envelope {
  readonly from: string;
  readonly to: readonly string[];
}

/** A recipient the service does not take, in its own words. */
export interface Turned {
  readonly address: string;
  readonly said: string;
}

/** What came of sending. */
export type SendOutcome =
  /** The service has taken it for everybody but those it turned away. */
  | { readonly is: "accepted"; readonly turned: readonly Turned[] }
  /** It takes it for nobody, and never will. */
  | { readonly is: "refused"; readonly said: string; readonly turned: readonly Turned[] }
  /** Not now: nothing was taken, and it may be tried again. */
  | { readonly is: "later"; readonly said: string }
  /** It may have been taken: the connection broke after the message and before the answer. */
  | { readonly is: "unsure"; readonly said: string };

/** Who carries letters away; what kind it is the account's row says. */
export interface Carrier {
  /** What it can do; asked anew each time, since services change. */
  can(): Promise<Abilities>;
  /** Hands a message over. Never throws for what the service does: whatever is not known is "unsure". */
  send(envelope: Envelope, raw: Uint8Array): Promise<SendOutcome>;
}

/** A mail service that only ever has more mail. */
export interface Gateway extends Carrier {
  /**
   * Messages behind a mark, oldest first, in pieces that are worth a transaction each. The mark moves only with
   * what was taken in.
   * @throws GatewayAway in the service's own words
   */
  pull(since: number): AsyncIterable<readonly Pulled[]>;
}

/** What came of asking to be left alone. */
export type LeaveOutcome =
  | { readonly is: "left" }
  | { readonly is: "refused"; readonly said: string }
  /** Not now: it may be asked again. */
  | { readonly is: "later"; readonly said: string };
