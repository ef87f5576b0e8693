/** A message as a service has it, and the mark behind it: asked from there, it does not come again. */
export interface Pulled {
  readonly raw: Uint8Array;
  readonly mark: number;
}

/** The service cannot be asked now. What it has stays there, and is asked for again later. */
export class GatewayAway extends Error {
  override readonly name = "GatewayAway";
}

/** A mail service, as the app sees it; what kind it is the account's row says. */
export interface Gateway {
  /**
   * Messages behind a mark, oldest first, in pieces that are worth a transaction each. The mark moves only with
   * what was taken in.
   * @throws GatewayAway in the service's own words
   */
  pull(since: number): AsyncIterable<readonly Pulled[]>;
}
