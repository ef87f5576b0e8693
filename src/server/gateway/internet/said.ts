import type { ServerShape } from "@/core/api";

/** What went wrong with a server, in words a person can act on: who said what. */

interface Trouble {
  readonly code?: string;
  readonly message?: string;
  /** A server's own words, of IMAP and of SMTP. */
  readonly responseText?: string;
  readonly response?: unknown;
  readonly authenticationFailed?: boolean;
}

const CERTIFICATE: Record<string, string> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: "its certificate is signed by nobody but itself",
  SELF_SIGNED_CERT_IN_CHAIN: "its certificate is signed by somebody this machine does not know",
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: "its certificate is signed by somebody this machine does not know",
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: "its certificate is signed by somebody this machine does not know",
  CERT_HAS_EXPIRED: "its certificate has run out",
  CERT_NOT_YET_VALID: "its certificate is not valid yet: is this machine's clock right?",
  ERR_TLS_CERT_ALTNAME_INVALID: "its certificate is for another name",
};

const CONNECTION: Record<string, string> = {
  ENOTFOUND: "there is no such name",
  EAI_AGAIN: "its name cannot be looked up now",
  EDNS: "its name cannot be looked up now",
  ECONNREFUSED: "nothing listens there",
  EHOSTUNREACH: "there is no way to it from here",
  ENETUNREACH: "there is no way to it from here",
  ETIMEDOUT: "it does not answer",
  ETIMEOUT: "it does not answer",
  CONNECT_TIMEOUT: "it does not answer",
  GREETING_TIMEOUT: "something listens there, but it does not speak as a mail server",
  GreetingTimeout: "something listens there, but it does not speak as a mail server",
  UPGRADE_TIMEOUT: "it does not answer once TLS begins",
};

/** The server's own words, on one line. */
export function wordsOf(error: unknown): string {
  const { responseText, response, message } = error as Trouble;
  const said = responseText ?? (typeof response === "string" ? response : undefined) ?? message ?? String(error);
  return said.replace(/\s+/g, " ").trim().slice(0, 300);
}

/** @param what "IMAP" or "SMTP" */
export function saidOf(error: unknown, what: string, { host, port, security }: ServerShape): string {
  const { code = "", authenticationFailed, message = "" } = error as Trouble;
  const there = `The ${what} server ${host}, port ${port}`;
  const certificate = Object.entries(CERTIFICATE).find(([name]) => code === name || message.includes(name));
  if (certificate) return `${there}: ${certificate[1]}. Nothing was sent to it.`;
  const connection = Object.entries(CONNECTION).find(([name]) => code === name || message.includes(name));
  if (connection) return `${there}: ${connection[1]}.`;
  if (/unexpected close|connection (was )?closed|not available/i.test(message))
    return `${there}: it closes the connection.`;
  if (authenticationFailed || code === "EAUTH")
    return `${there}, does not take the name and password: “${wordsOf(error)}”.`;
  if (/wrong version number|packet length too long|EPROTO/i.test(`${code} ${message}`))
    return `${there}: it does not speak TLS from the start. Try STARTTLS, or another port.`;
  if (security === "starttls" && /STARTTLS|upgrade/i.test(message))
    return `${there}: it offers no STARTTLS. Try TLS at port 993 or 465.`;
  return `${there}: ${wordsOf(error)}`;
}
