import {
  browserSupportsWebAuthn,
  startAuthentication,
  startRegistration,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
} from "@simplewebauthn/browser";
import { get, write } from "../state/api";

/** Passkeys in this browser. A host that is a number has none: then the same machine's name is offered. */

export type PasskeysHere = "can" | "by name" | "cannot";

export function passkeysHere(): PasskeysHere {
  if (typeof window === "undefined" || !browserSupportsWebAuthn()) return "cannot";
  return /^[\d.]+$|^\[/.test(location.hostname) ? "by name" : "can";
}

/** The same app under this machine's name. */
export const byName = (): string => location.href.replace(location.host, `localhost:${location.port}`);

const said = (error: unknown): Error =>
  (error as Error).name === "NotAllowedError"
    ? new Error("Nothing was signed: it was given up, or took too long.")
    : (error as Error);

async function signWith(path: string): Promise<void> {
  const optionsJSON = await get<PublicKeyCredentialRequestOptionsJSON>("/sign-in/passkey");
  const credential = await startAuthentication({ optionsJSON }).catch((error: unknown) => {
    throw said(error);
  });
  await write("POST", path, { credential });
}

export const signInByPasskey = (): Promise<void> => signWith("/sign-in/passkey");
/** Shows that whoever is signed in sits there still. */
export const proveByPasskey = (): Promise<void> => signWith("/sessions/proof");

/** @param name by which it is listed */
export async function makePasskey(name: string): Promise<void> {
  const optionsJSON = await get<PublicKeyCredentialCreationOptionsJSON>("/passkeys");
  const credential = await startRegistration({ optionsJSON }).catch((error: unknown) => {
    throw (error as Error).name === "InvalidStateError"
      ? new Error("This device has a passkey of yours already.")
      : said(error);
  });
  await write("POST", "/passkeys", { name, credential });
}
