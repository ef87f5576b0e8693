import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, describe, expect, test } from "vitest";
import { find, seal, unseal } from "@/server/gateway";

/** Where the servers of an address are, by names and ports that are made up here; and what seals a password. */

const looking = (
  names: Record<string, { name: string; port: number; priority: number; weight: number }[]>,
  open: readonly string[],
) => ({
  srv: (name: string) => Promise.resolve(names[name] ?? []),
  answers: (host: string, port: number) => Promise.resolve(open.includes(`${host}:${port}`)),
});
const at = (name: string, port: number, priority = 0, weight = 0) => ({ name, port, priority, weight });

describe("servers of an address", () => {
  test("are those its domain names, the first in order, the heaviest of equals", async () => {
    const found = await find(
      "desk@Huts.example",
      looking(
        {
          "_imaps._tcp.huts.example": [
            at("c.example", 993, 1, 9),
            at("a.example", 1993, 0, 1),
            at("b.example", 993, 0, 5),
          ],
          "_submission._tcp.huts.example": [at("s.example", 587)],
        },
        [],
      ),
    );
    expect(found).toEqual({
      how: "named",
      servers: {
        imap: { host: "b.example", port: 993, security: "tls" },
        smtp: { host: "s.example", port: 587, security: "starttls" },
        user: "desk@Huts.example",
        method: "password",
      },
    });
  });
  test("a domain that says it has none is looked for by the usual names, TLS from the start before STARTTLS", async () => {
    const names = { "_imaps._tcp.huts.example": [at(".", 0)] };
    const open = ["imap.huts.example:143", "mail.huts.example:993", "smtp.huts.example:587"];
    const { how, servers } = await find("desk@huts.example", looking(names, open));
    expect([how, servers.imap, servers.smtp]).toEqual([
      "usual",
      { host: "mail.huts.example", port: 993, security: "tls" },
      { host: "smtp.huts.example", port: 587, security: "starttls" },
    ]);
  });
  test("where only one side is named, the other is looked for; where nothing is found, that is said", async () => {
    const names = { "_imaps._tcp.huts.example": [at("in.example", 993)] };
    const half = await find("desk@huts.example", looking(names, ["smtp.huts.example:465"]));
    expect([half.how, half.servers.imap.host, half.servers.smtp.port]).toEqual(["named", "in.example", 465]);
    const none = await find("desk@huts.example", looking({}, []));
    expect([none.how, none.servers.imap.host, none.servers.smtp.host]).toEqual([
      "guessed",
      "imap.huts.example",
      "smtp.huts.example",
    ]);
  });
});

describe("a sealed password", () => {
  const before = { ...process.env };
  afterEach(() => {
    process.env.TACHYNE_KEY = before.TACHYNE_KEY;
    process.env.TACHYNE_KEY_FILE = before.TACHYNE_KEY_FILE;
    for (const name of ["TACHYNE_KEY", "TACHYNE_KEY_FILE"]) if (before[name] === undefined) delete process.env[name];
  });
  const withKey = (bytes = 32) => (process.env.TACHYNE_KEY = randomBytes(bytes).toString("base64"));

  test("opens with its key and for its account only, and never looks the same twice", () => {
    withKey();
    const sealed = seal("hut kéys", "account 1 2");
    expect(unseal(sealed, "account 1 2")).toBe("hut kéys");
    expect(sealed.toString("latin1")).not.toContain("hut");
    expect(seal("hut kéys", "account 1 2").equals(sealed)).toBe(false);
    expect(() => unseal(sealed, "account 1 3")).toThrow(/another key/);
    sealed[sealed.length - 1]! ^= 1;
    expect(() => unseal(sealed, "account 1 2")).toThrow(/another key/);
    const other = seal("x", "a");
    withKey();
    expect(() => unseal(other, "a")).toThrow(/another key/);
  });
  test("needs a key of its length, out of a file that nobody else reads", () => {
    delete process.env.TACHYNE_KEY;
    expect(() => seal("x", "a")).toThrow(/no key to seal/);
    withKey(31);
    expect(() => seal("x", "a")).toThrow(/not 32 bytes/);
    delete process.env.TACHYNE_KEY;
    const folder = mkdtempSync(join(tmpdir(), "key-"));
    const file = join(folder, "key");
    writeFileSync(file, `${randomBytes(32).toString("base64")}\n`, { mode: 0o600 });
    process.env.TACHYNE_KEY_FILE = file;
    expect(unseal(seal("x", "a"), "a")).toBe("x");
    chmodSync(file, 0o640);
    expect(() => seal("x", "a")).toThrow(/Others may read/);
    rmSync(folder, { recursive: true });
  });
});
