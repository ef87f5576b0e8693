/** The scripts that let tests and benchmarks in, which are plain programs without types. */

export interface Cookie {
  readonly name: string;
  readonly value: string;
}

interface SignIn {
  readonly makeLink: (env: object, ...more: string[]) => string | null;
  readonly signIn: (address: string, link: string) => Promise<Cookie>;
  readonly asHeaders: (cookie: Cookie) => { cookie: string };
  readonly asCookie: (
    address: string,
    cookie: Cookie,
  ) => Cookie & { domain: string; path: string; httpOnly: boolean; sameSite: "Strict" };
}

const { makeLink, signIn, asHeaders, asCookie } = (await import("../scripts/setup/sign-in.mjs" as string)) as SignIn;
export { asCookie, asHeaders, makeLink, signIn };
