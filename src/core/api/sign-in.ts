import * as z from "zod";
import { isZone } from "../calendar";
import { isAddress } from "../letter";
import { text } from "./parts";
import { passwordProblem } from "./password";

/** Coming in, where somebody is in, and leaving. */

/** How a session began. */
export const SESSION_WAYS = ["password", "passkey", "link", "beginning", "invitation"] as const;
export type SessionWay = (typeof SESSION_WAYS)[number];

const MOST_PASSWORD = 200;

const address = text(254).refine(isAddress, "this is no e-mail address");
const zone = text(60).refine(isZone, "there is no such time zone");
const password = text(MOST_PASSWORD, 1);
/** One that was known already only has to be right; its length was asked for when it was new. */
const newPassword = password.superRefine((given, context) => {
  const problem = passwordProblem(given);
  if (problem) context.addIssue(problem);
});
const name = text(100, 1).refine((given) => given.trim() !== "", "write something");

/** Six digits, or one on paper. */
const code = text(40, 1);
export const signInRequest = z.object({
  address: text(254),
  password,
  code: code.optional().describe("where codes are asked for: urn:tachyne:code-needed says so"),
});
export const beginRequest = z.object({ name, address, password: newPassword, zone });
export const linkRequest = z.object({ link: text(100) });
export const invitedRequest = beginRequest.extend({ link: text(100) });
export const passwordRequest = z.object({
  old: text(MOST_PASSWORD).describe("empty where there is none yet"),
  password: newPassword,
});

export const codeRequest = z.object({ code });
const credentialId = text(1400, 1);
const parts = z.record(z.string(), z.unknown());
const response = z.looseObject({ clientDataJSON: z.string(), userHandle: z.string().nullish() });
/** What a browser's Web Authentication says; the library that checks it knows its parts. */
const credential = z.looseObject({
  id: credentialId,
  rawId: credentialId,
  type: z.literal("public-key"),
  response,
  clientExtensionResults: parts,
});
export const signedRequest = z.object({ credential });
export const proofRequest = z.union([z.strictObject({ password }), z.strictObject({ credential })]);
export const passkeyRequest = z.object({ name, credential });
/** Goes to the browser's Web Authentication as it is. */
export const optionsShape = z.record(z.string(), z.unknown());
export const codeSecretShape = z.object({
  secret: z.string().describe("base32"),
  uri: z.string().describe("the same for an app that makes codes"),
});
export type CodeSecretShape = z.infer<typeof codeSecretShape>;
export const paperShape = z.object({ codes: z.string().array().describe("each is good once, and shown only now") });

export const signInShape = z.object({
  person: z.object({ name: z.string(), address: z.string() }).nullable().describe("who is signed in here"),
  isEmpty: z.boolean().describe("nobody has a mailbox yet: the first person may begin"),
  byLink: z.boolean().describe("they begin by the link that whoever runs the server has"),
});
export type SignInShape = z.infer<typeof signInShape>;

const at = z.number().describe("milliseconds since 1970");
export const sessionShape = z.object({
  id: z.uuid(),
  way: z.enum(SESSION_WAYS),
  agent: z.string().describe("what the browser calls itself"),
  created: at,
  seen: at.describe("when it was used last, to ten minutes"),
  isThis: z.boolean(),
});
export type SessionShape = z.infer<typeof sessionShape>;

export const signedInShape = z.object({
  address: z.string().describe("with which one signs in"),
  hasPassword: z.boolean(),
  mayInvite: z.boolean(),
  mustProve: z.boolean().describe("POST /sessions/proof comes before a passkey, a token or codes are made"),
  sessions: sessionShape.array(),
  passkeys: z.object({ id: z.string(), name: z.string(), created: at, used: at.nullable() }).array(),
  codes: z.object({ areOn: z.boolean(), paper: z.number().int().describe("codes on paper that are left") }),
});
export type SignedInShape = z.infer<typeof signedInShape>;

export const onceShape = z.object({ link: z.string().describe("goes behind /sign-in#invitation="), days: z.number() });
