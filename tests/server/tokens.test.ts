import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { randomUUID } from "node:crypto";
import { afterAll, afterEach, beforeAll, beforeEach, expect, test } from "vitest";
import type { Servers } from "@/core/api";
import { docOfText } from "@/core/letter";
import { changeAccount, createAccount, createDraft, listAccounts, sendDraft, testAccount } from "@/server/act";
import { heldOf, serverAccounts } from "@/server/gateway";
import { sendDue } from "@/server/jobs";
import { letter, PASSWORD, startMailService, type MailService } from "../fixtures/mail-service";
import { Sides } from "./sides";

/** Tokens that an endpoint gives (RFC 6749, section 6), and servers that are signed in to with them (RFC 7628). */

let service: MailService;
let sides: Sides;
let endpoint: Server;
let address: string;
/** What the endpoint was asked with. */
let asked: URLSearchParams[];
/** What it answers instead of a token. */
let refusal: { readonly status: number; readonly body: string; readonly location?: string } | null;
let life: number;
let next = 0;

beforeAll(async () => {
  service = await startMailService(["t0", "t1", "t2"]);
  endpoint = createServer((request, response) => {
    let text = "";
    request.on("data", (part: Buffer) => (text += part.toString()));
    request.on("end", () => {
      const form = new URLSearchParams(text);
      asked.push(form);
      response.setHeader("content-type", "application/json");
      if (refusal) {
        if (refusal.location) response.setHeader("location", refusal.location);
        response.writeHead(refusal.status).end(refusal.body);
        return;
      }
      const n = Number(form.get("refresh_token")?.slice(1)) + 1;
      service.tokens.add(`access-${n}`);
      response.end(
        JSON.stringify({
          access_token: `access-${n}`,
          token_type: "Bearer",
          expires_in: life,
          refresh_token: `r${n}`,
        }),
      );
    });
  });
  await new Promise<void>((resolve) => endpoint.listen(0, "127.0.0.1", resolve));
  address = `http://127.0.0.1:${(endpoint.address() as AddressInfo).port}/token`;
});
afterAll(async () => {
  endpoint.close();
  await service.end();
});
beforeEach(async () => {
  [asked, refusal, life] = [[], null, 3600];
  service.tokens.clear();
  sides = await Sides.open(service, `t${next++}`);
  // Dovecot has no such mechanism by itself: a token that is good signs in with the password it stands for.
  service.wire.change = (said) => said.replaceAll("AUTH=PLAIN", "AUTH=PLAIN AUTH=XOAUTH2");
  service.wire.translate = (said) =>
    said.replace(/^(\S+) AUTHENTICATE XOAUTH2 (\S+)\r\n/, (whole, tag: string, base64: string) => {
      const [, user, token] = /^user=(.+)\u0001auth=Bearer (.+)\u0001\u0001$/.exec(
        Buffer.from(base64, "base64").toString(),
      )!;
      return service.tokens.has(token!) ? `${tag} LOGIN ${user} ${PASSWORD}\r\n` : whole;
    });
});
afterEach(() => sides.end());

const servers = (tokens?: Servers["tokens"]): Servers => ({
  ...service.servers(sides.user),
  method: "renewed",
  tokens: tokens ?? { endpoint: address, clientId: "huts", scope: "mail" },
});
const connect = () =>
  createAccount(sides.fresh.context, {
    name: "",
    address: "desk@huts.example",
    servers: servers(),
    secret: "r0",
    clientSecret: "hush",
    since: null,
    without: [],
  });
const held = async () => heldOf((await serverAccounts(sides.fresh.db.sql, sides.fresh.context.person, null))[0]!);

test("an account signs in by tokens that are fetched, keeps the newest refresh token, and fetches as seldom as it may", async () => {
  await sides.bare.append("INBOX", letter(1));
  const account = await connect();
  expect(Object.fromEntries(asked[0]!)).toEqual({
    grant_type: "refresh_token",
    refresh_token: "r0",
    client_id: "huts",
    client_secret: "hush",
    scope: "mail",
  });
  expect(await held()).toEqual({ secret: "r1", clientSecret: "hush" });
  expect(JSON.stringify(account)).not.toMatch(/hush|r1|access-/);
  expect(await sides.see()).toBe(1);
  expect(asked).toHaveLength(2);
  expect(await held()).toMatchObject({ secret: "r2" });
  // The token holds for an hour: another connection, and sending, do with it.
  await sides.another();
  expect(await sides.see()).toBe(0);
  const draft = await createDraft(sides.fresh.context, {
    kind: "new",
    answers: null,
    to: [{ name: "", address: "guest@post.example" }],
    subject: "Four beds",
    body: docOfText("They are free."),
  });
  await sides.fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
  await sendDraft(sides.fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
  await sendDue(sides.fresh.db, new Date());
  expect(service.delivered.at(-1)).toMatchObject({ to: ["guest@post.example"] });
  expect(asked).toHaveLength(2);
});

test("a token that has run out is fetched anew; what the endpoint refuses is said in its words, and mended", async () => {
  life = 30;
  const { id } = await connect();
  await sides.see();
  await sides.another();
  expect(await sides.see()).toBe(0);
  expect(asked).toHaveLength(3);
  refusal = { status: 400, body: '{"error":"invalid_grant","error_description":"The sign-in was taken back."}' };
  await sides.another();
  expect(await sides.see()).toBeNull();
  expect((await listAccounts(sides.fresh.context))[0]!.trouble).toMatch(
    /^The token endpoint 127\.0\.0\.1:\d+ gives no token: “The sign-in was taken back\.”/,
  );
  refusal = null;
  await changeAccount(sides.fresh.context, id, { secret: "r40" });
  expect(await held()).toEqual({ secret: "r41", clientSecret: "hush" });
  expect(await sides.see()).toBe(0);
});

test("an endpoint that cannot be trusted or understood gets no further", async () => {
  const said = async (source: Servers["tokens"] = undefined) =>
    (await testAccount(sides.fresh.context, { servers: servers(source), secret: "r0" })).imap;
  refusal = { status: 200, body: "<html>Welcome</html>" };
  expect(await said()).toMatchObject({ ok: false, said: expect.stringContaining("something else than a token") });
  refusal = { status: 302, body: "", location: "https://elsewhere.example/token" };
  expect((await said()).said).toMatch(/does not answer/);
  refusal = null;
  expect((await said({ endpoint: "http://127.0.0.1:1/token", clientId: "huts", scope: "" })).said).toMatch(
    /127\.0\.0\.1:1 does not answer/,
  );
  expect(Object.fromEntries(asked[0]!)).not.toHaveProperty("client_secret");
  const open = { endpoint: "http://tokens.huts.example/", clientId: "huts", scope: "" };
  await expect(said(open)).rejects.toThrow(/could read the token. Write an address that begins with https/);
  const { tokens: _, ...none } = servers();
  await expect(testAccount(sides.fresh.context, { servers: none, secret: "r0" })).rejects.toThrow(/No token endpoint/);
  expect((await said()).ok).toBe(true);
});
