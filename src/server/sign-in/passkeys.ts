import { createHash } from "node:crypto";
import {
  generateAuthenticationOptions,
  generateRegistrationOptions,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
  type AuthenticationResponseJSON,
  type AuthenticatorTransport,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  type RegistrationResponseJSON,
} from "@simplewebauthn/server";
import { personId, type PersonId } from "@/core/id";
import type { Database } from "../db";

/**
 * Passkeys (W3C Web Authentication, level 3): a key that a device keeps and lets be used by whoever unlocks the device.
 * It belongs to one host, so that no page of another one can ask for it. Being two things at once, something one has
 * and something one knows or is, it asks for no code beside it.
 */

/** The host that a passkey belongs to, and the pages that may use it. */
export interface Site {
  /** "localhost" */
  readonly host: string;
  /** "http://localhost:4300" */
  readonly origin: string;
}

const NAME = "Tachyne";
const CHALLENGE_MINUTES = 5;

const digest = (challenge: string): Buffer => createHash("sha256").update(challenge).digest();

async function keep({ sql }: Database, challenge: string, person: PersonId | null): Promise<void> {
  await sql`insert into challenge (hash, person, ends_at)
    values (${digest(challenge)}, ${person}, now() + make_interval(mins => ${CHALLENGE_MINUTES}))`;
}

/** What the device says it has signed; null where it says nothing that can be read. */
function challengeIn(clientData: string): string | null {
  try {
    const { challenge } = JSON.parse(Buffer.from(clientData, "base64url").toString()) as { challenge?: unknown };
    return typeof challenge === "string" ? challenge : null;
  } catch {
    return null;
  }
}

/**
 * Uses a challenge up.
 * @param person for whom it was made; null for whoever comes in @returns it; null where none such was given out
 */
async function takenFrom({ sql }: Database, person: PersonId | null, clientData: string): Promise<string | null> {
  const challenge = challengeIn(clientData);
  if (challenge === null) return null;
  const [row] = await sql<{ good: boolean }[]>`
    delete from challenge where hash = ${digest(challenge)} and person is not distinct from ${person}
    returning ends_at > now() as good`;
  return row?.good ? challenge : null;
}

/** What has to hold of all that a device signs; the library throws where it does not, or where nothing can be read. */
const expected = (challenge: string, { host, origin }: Site) => ({
  expectedChallenge: challenge,
  expectedOrigin: origin,
  expectedRPID: host,
  requireUserVerification: true,
});
const none = () => null;

const transportsOf = (text: string) => text.split(" ").filter(Boolean) as AuthenticatorTransport[];

/** What the browser is to make a passkey with. */
export async function askForPasskey(
  db: Database,
  person: PersonId,
  { name, address }: { readonly name: string; readonly address: string },
  site: Site,
): Promise<PublicKeyCredentialCreationOptionsJSON> {
  const known = await db.sql<{ id: string; transports: string }[]>`
    select id, transports from passkey where person = ${person}`;
  const options = await generateRegistrationOptions({
    rpName: NAME,
    rpID: site.host,
    userName: address,
    userDisplayName: name,
    userID: new TextEncoder().encode(String(person)),
    attestationType: "none",
    authenticatorSelection: { residentKey: "required", userVerification: "required" },
    excludeCredentials: known.map(({ id, transports }) => ({ id, transports: transportsOf(transports) })),
  });
  await keep(db, options.challenge, person);
  return options;
}

/** @returns whether it was made as it was asked for, and is kept */
export async function addPasskey(
  db: Database,
  person: PersonId,
  response: RegistrationResponseJSON,
  name: string,
  site: Site,
): Promise<boolean> {
  const challenge = await takenFrom(db, person, response.response.clientDataJSON);
  if (challenge === null) return false;
  const checked = await verifyRegistrationResponse({ response, ...expected(challenge, site) }).catch(none);
  if (!checked?.verified) return false;
  const { id, publicKey, counter, transports = [] } = checked.registrationInfo.credential;
  const added = await db.sql`insert into passkey (person, id, public_key, uses, transports, name)
    values (${person}, ${id}, ${Buffer.from(publicKey)}, ${counter}, ${transports.join(" ")}, ${name})
    on conflict do nothing returning id`;
  return added.length > 0;
}

/** What the browser is to sign, with whichever passkey of this host it has. */
export async function askForSignature(db: Database, site: Site): Promise<PublicKeyCredentialRequestOptionsJSON> {
  const options = await generateAuthenticationOptions({ rpID: site.host, userVerification: "required" });
  await keep(db, options.challenge, null);
  return options;
}

/** @returns whose passkey has signed; null where none of anybody's has */
export async function whoSigned(
  db: Database,
  response: AuthenticationResponseJSON,
  site: Site,
): Promise<PersonId | null> {
  // The person stands in what the device kept: the key is looked up among theirs.
  const handle = Buffer.from(response.response.userHandle ?? "", "base64url").toString();
  if (!/^[1-9]\d{0,15}$/.test(handle)) return null;
  const person = personId(Number(handle));
  const [key] = await db.sql<{ publicKey: Uint8Array; uses: number; transports: string }[]>`
    select public_key as "publicKey", uses, transports from passkey where person = ${person} and id = ${response.id}`;
  if (!key) return null;
  const challenge = await takenFrom(db, null, response.response.clientDataJSON);
  if (challenge === null) return null;
  const checked = await verifyAuthenticationResponse({
    response,
    ...expected(challenge, site),
    credential: {
      id: response.id,
      publicKey: Uint8Array.from(key.publicKey),
      counter: key.uses,
      transports: transportsOf(key.transports),
    },
  }).catch(none);
  if (!checked?.verified) return null;
  await db.sql`update passkey set uses = ${checked.authenticationInfo.newCounter}, used_at = now()
    where person = ${person} and id = ${response.id}`;
  return person;
}

export interface PasskeyRow {
  readonly id: string;
  readonly name: string;
  readonly created: number;
  readonly used: number | null;
}

/** Times in milliseconds since 1970. */
export const listPasskeys = ({ sql }: Database, person: PersonId): Promise<PasskeyRow[]> =>
  sql<PasskeyRow[]>`
    select id, name, (extract(epoch from created_at) * 1000)::float8 as created,
      (extract(epoch from used_at) * 1000)::float8 as used
    from passkey where person = ${person} order by created_at, id`;

export async function removePasskey({ sql }: Database, person: PersonId, id: string): Promise<boolean> {
  return (await sql`delete from passkey where person = ${person} and id = ${id} returning id`).length > 0;
}
