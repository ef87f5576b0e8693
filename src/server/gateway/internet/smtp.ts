import nodemailer from "nodemailer";
import type { Servers } from "@/core/api";
import { isLoopback } from "./imap";
import { saidOf, wordsOf } from "./said";
import { GatewayAway, type Envelope, type SendOutcome, type Turned } from "../gateway";

/** Handing mail over by SMTP (RFC 5321). */

const TIMEOUT_MS = 30_000;

interface Seen {
  /** Whether the server has said that it takes the message now: from there on it may have it. */
  data: boolean;
  utf8: boolean;
}

function transport({ smtp, user, method }: Servers, secret: string, seen: Seen) {
  const note = (entry: { tnx?: string } | undefined, text: unknown) => {
    if (entry?.tnx !== "server") return;
    if (/^354/.test(String(text))) seen.data = true;
    if (/^250[ -]SMTPUTF8/im.test(String(text))) seen.utf8 = true;
  };
  const logger = Object.fromEntries(
    ["trace", "debug", "info", "warn", "error", "fatal"].map((level) => [
      level,
      (entry: { tnx?: string } | undefined, format: unknown, ...rest: unknown[]) => note(entry, rest[0] ?? format),
    ]),
  );
  return nodemailer.createTransport({
    host: smtp.host,
    port: smtp.port,
    secure: smtp.security === "tls",
    // Without TLS a password goes to this machine's own address only.
    requireTLS: smtp.security === "starttls" || !isLoopback(smtp.host),
    ignoreTLS: smtp.security === "none" && isLoopback(smtp.host),
    auth: method !== "password" ? { type: "OAUTH2", user, accessToken: secret } : { user, pass: secret },
    connectionTimeout: TIMEOUT_MS,
    greetingTimeout: TIMEOUT_MS,
    socketTimeout: TIMEOUT_MS,
    logger: logger as never,
    transactionLog: true,
  });
}

interface Failed {
  readonly code?: string;
  readonly responseCode?: number;
  readonly rejectedErrors?: readonly { readonly recipient?: string; readonly response?: string }[];
}

const turnedOf = (errors: Failed["rejectedErrors"]): Turned[] =>
  (errors ?? []).flatMap(({ recipient, response }) =>
    recipient === undefined ? [] : [{ address: recipient, said: response ?? "It was not taken." }],
  );

/** Never throws for what the server does: whatever is not known is "unsure". */
export async function sendBySmtp(
  servers: Servers,
  secret: string,
  { from, to }: Envelope,
  raw: Uint8Array,
): Promise<SendOutcome> {
  const seen: Seen = { data: false, utf8: false };
  const transporter = transport(servers, secret, seen);
  try {
    const sent = await transporter.sendMail({
      envelope: { from, to: [...to], size: raw.length } as { from: string; to: string[] },
      raw: Buffer.from(raw),
    });
    return { is: "accepted", turned: turnedOf((sent as Failed).rejectedErrors) };
  } catch (error) {
    const { code, responseCode = 0, rejectedErrors } = error as Failed;
    const said = responseCode > 0 ? wordsOf(error) : saidOf(error, "SMTP", servers.smtp);
    // What signing in needs is for the person to mend; the letter is as good as it was.
    if (code === "EAUTH") return { is: "later", said: saidOf(error, "SMTP", servers.smtp) };
    if (responseCode >= 500) return { is: "refused", said, turned: turnedOf(rejectedErrors) };
    if (responseCode >= 400) return { is: "later", said };
    return seen.data
      ? { is: "unsure", said: `The connection broke before the server answered. ${said}` }
      : { is: "later", said };
  } finally {
    transporter.close();
  }
}

/** Signs in and out. @returns whether the server takes addresses outside ASCII @throws in the server's words */
export async function trySmtp(servers: Servers, secret: string): Promise<{ readonly utf8: boolean }> {
  const seen: Seen = { data: false, utf8: false };
  const transporter = transport(servers, secret, seen);
  try {
    await transporter.verify();
    return { utf8: seen.utf8 };
  } catch (error) {
    throw new GatewayAway(saidOf(error, "SMTP", servers.smtp), { cause: error });
  } finally {
    transporter.close();
  }
}
