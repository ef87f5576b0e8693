import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  checkProved,
  mustProve,
  prove,
  signIn,
  whoIsAsking,
  type Asking,
  type Context,
  type From,
  type Refusal,
} from "@/server/act";
import { openWalled, type Database } from "@/server/db";
import { hashPassword } from "@/server/sign-in";
import { freshDatabase, type Fresh } from "./database";

/** Making what lets in takes whoever has shown of late who they are. */

const ADDRESS = "ilse@larch.example";
const PASSWORD = "seven larches by the lake";
let fresh: Fresh;
let gate: Database;
let from: From;

beforeAll(async () => {
  fresh = await freshDatabase();
  await fresh.db.sql`insert into sign_in (person, address, password)
    values (${fresh.context.person}, ${ADDRESS}, ${await hashPassword(PASSWORD)})`;
  gate = openWalled(fresh.url, 4);
  from = {
    db: gate,
    agent: "a test",
    address: null,
    isPublic: false,
    site: { host: "localhost", origin: "http://localhost:1" },
  };
});
afterAll(async () => {
  await gate.close();
  await fresh.drop();
});

const asking = async (token: string): Promise<Asking> => (await whoIsAsking(gate, token))!;
describe("whoever sits at a window that is signed in", () => {
  const away = (session: string) =>
    fresh.db.sql`update session set proved_at = now() - interval '11 minutes' where id = ${session}`;
  const held = (context: Context, session: string) =>
    checkProved(context, session).then(
      () => 200,
      (e: Refusal) => e.more.code,
    );

  test("is asked once more who they are after ten minutes, by the password, which is counted", async () => {
    const { context, session } = await asking(await signIn(from, { address: ADDRESS, password: PASSWORD }));
    expect(await held(context, session)).toBe(200);
    await away(session);
    expect(await mustProve(context, session)).toBe(true);
    expect(await held(context, session)).toBe("prove");
    await expect(prove(context, session, from, { password: "not this one here" })).rejects.toMatchObject({
      status: 422,
    });
    expect(await held(context, session)).toBe("prove");
    const other = await asking(await signIn(from, { address: ADDRESS, password: PASSWORD }));
    await away(other.session);
    await prove(context, session, from, { password: PASSWORD });
    expect(await held(context, session)).toBe(200);
    // Shown in one window, it is not shown in another.
    expect(await held(other.context, other.session)).toBe("prove");
    const wrong = Array.from({ length: 12 }, () => prove(context, session, from, { password: "not this one here" }));
    const refused = (await Promise.allSettled(wrong)).map((one) => (one as { reason: Refusal }).reason.status);
    expect(new Set(refused)).toEqual(new Set([422, 429]));
    await fresh.db.sql`delete from sign_in_attempt`;
  });

  test("is not asked where there is nothing to show it by", async () => {
    const { context, session } = await asking(await signIn(from, { address: ADDRESS, password: PASSWORD }));
    await fresh.db.sql`update sign_in set password = null where person = ${context.person}`;
    await away(session);
    expect(await mustProve(context, session)).toBe(false);
    await expect(prove(context, session, from, { password: "" })).rejects.toMatchObject({ status: 422 });
    const hash = await hashPassword(PASSWORD);
    await fresh.db.sql`update sign_in set password = ${hash} where person = ${context.person}`;
  });
});
