import { afterEach, describe, expect, test } from "vitest";
import { comesFrom, isOwn, siteOf } from "./hosts";

const asked = (headers: Record<string, string>) => new Headers(headers);
const PUBLIC = "https://mail.larch.example";

afterEach(() => {
  delete process.env.TACHYNE_ORIGIN;
});

describe("on this machine alone", () => {
  test.each<Record<string, string>>([
    { host: "127.0.0.1:4300" },
    { host: "localhost:4300", origin: "http://localhost:4300" },
    { host: "[::1]:4300", "sec-fetch-site": "same-origin" },
    { host: "localhost", "sec-fetch-site": "none" },
  ])("$host is answered", (headers) => expect(isOwn(asked(headers))).toBe(true));

  test.each<Record<string, string>>([
    {},
    { host: "" },
    { host: "mail.larch.example" },
    { host: "127.0.0.1.evil.example" },
    { host: "localhost:4300", origin: "http://localhost:4301" },
    { host: "localhost:4300", origin: "https://localhost:4300" },
    { host: "localhost:4300", origin: "null" },
    { host: "localhost:4300", "sec-fetch-site": "cross-site" },
    { host: "localhost:4300", "sec-fetch-site": "same-site" },
  ])("%o is not", (headers) => expect(isOwn(asked(headers))).toBe(false));

  test("nobody says where they come from", () =>
    expect(comesFrom(asked({ "x-forwarded-for": "192.0.2.1" }))).toBeNull());
});

describe("behind another server", () => {
  test("its name is answered, over TLS only, and this machine as before", () => {
    process.env.TACHYNE_ORIGIN = PUBLIC;
    expect(isOwn(asked({ host: "mail.larch.example", origin: PUBLIC }))).toBe(true);
    expect(isOwn(asked({ host: "mail.larch.example" }))).toBe(true);
    expect(isOwn(asked({ host: "mail.larch.example", origin: "http://mail.larch.example" }))).toBe(false);
    expect(isOwn(asked({ host: "mail.larch.example", origin: "https://evil.example" }))).toBe(false);
    expect(isOwn(asked({ host: "mail.larch.example:8443" }))).toBe(false);
    expect(isOwn(asked({ host: "other.larch.example" }))).toBe(false);
    expect(isOwn(asked({ host: "127.0.0.1:4300", origin: "http://127.0.0.1:4300" }))).toBe(true);
    expect(isOwn(asked({ host: "127.0.0.1:4300", origin: PUBLIC }))).toBe(false);
  });

  test("passkeys belong to its name, and attempts to the address that it saw itself", () => {
    process.env.TACHYNE_ORIGIN = PUBLIC;
    expect(siteOf(asked({ host: "mail.larch.example" }))).toEqual({ host: "mail.larch.example", origin: PUBLIC });
    expect(siteOf(asked({ host: "localhost:4300" }))).toEqual({ host: "localhost", origin: "http://localhost:4300" });
    expect(comesFrom(asked({ "x-forwarded-for": "10.0.0.1, 192.0.2.7" }))).toBe("192.0.2.7");
    expect(comesFrom(asked({ "x-forwarded-for": "192.0.2.7" }))).toBe("192.0.2.7");
    expect(comesFrom(asked({}))).toBeNull();
  });

  test.each(["mail.larch.example", "https://mail.larch.example/", "https://mail.larch.example/mail", "ftp://x", "*"])(
    "%s is no origin, and says so before anything is answered",
    (text) => {
      process.env.TACHYNE_ORIGIN = text;
      expect(() => isOwn(asked({ host: "localhost" }))).toThrow("TACHYNE_ORIGIN");
    },
  );
});
