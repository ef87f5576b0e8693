import { resolveSrv } from "node:dns/promises";
import { connect } from "node:net";
import type { FoundServers, ServerShape } from "@/core/api";

/** The servers of an address: by the SRV names of its domain (RFC 6186, RFC 8314), else by the usual host names. */

const ANSWER_MS = 2500;

interface Looking {
  readonly srv: (name: string) => Promise<readonly { name: string; port: number; priority: number; weight: number }[]>;
  readonly answers: (host: string, port: number) => Promise<boolean>;
}

const within = <T>(work: Promise<T>, otherwise: T): Promise<T> =>
  Promise.race([
    work.catch(() => otherwise),
    new Promise<T>((done) => setTimeout(() => done(otherwise), ANSWER_MS).unref()),
  ]);

const answers = (host: string, port: number): Promise<boolean> =>
  new Promise((done) => {
    const socket = connect({ host, port, timeout: ANSWER_MS });
    const end = (is: boolean) => {
      socket.destroy();
      done(is);
    };
    socket
      .once("connect", () => end(true))
      .once("error", () => end(false))
      .once("timeout", () => end(false));
  });

const NETWORK: Looking = { srv: (name) => within(resolveSrv(name), []), answers };

interface Kind {
  /** SRV names and what they mean, the better one first. */
  readonly names: readonly (readonly [service: string, security: ServerShape["security"]])[];
  readonly usual: readonly (readonly [host: string, port: number, security: ServerShape["security"]])[];
}
const IMAP: Kind = {
  names: [
    ["_imaps._tcp", "tls"],
    ["_imap._tcp", "starttls"],
  ],
  usual: [
    ["imap", 993, "tls"],
    ["mail", 993, "tls"],
    ["imap", 143, "starttls"],
    ["mail", 143, "starttls"],
  ],
};
const SMTP: Kind = {
  names: [
    ["_submissions._tcp", "tls"],
    ["_submission._tcp", "starttls"],
  ],
  usual: [
    ["smtp", 465, "tls"],
    ["mail", 465, "tls"],
    ["smtp", 587, "starttls"],
    ["mail", 587, "starttls"],
  ],
};

async function named({ names }: Kind, domain: string, { srv }: Looking): Promise<ServerShape | null> {
  for (const [service, security] of names) {
    // A target of "." says that there is none.
    const found = (await srv(`${service}.${domain}`)).filter(({ name }) => name !== "" && name !== ".");
    const [best] = [...found].sort((a, b) => a.priority - b.priority || b.weight - a.weight);
    if (best) return { host: best.name, port: best.port, security };
  }
  return null;
}

async function usual({ usual: all }: Kind, domain: string, looking: Looking): Promise<ServerShape | null> {
  const open = await Promise.all(all.map(([host, port]) => looking.answers(`${host}.${domain}`, port)));
  const at = open.indexOf(true);
  if (at < 0) return null;
  const [host, port, security] = all[at]!;
  return { host: `${host}.${domain}`, port, security };
}

const guessed = ({ usual: [first] }: Kind, domain: string): ServerShape => ({
  host: `${first![0]}.${domain}`,
  port: first![1],
  security: first![2],
});

/** @param address "desk@huts.example" */
export async function find(address: string, looking: Looking = NETWORK): Promise<FoundServers> {
  const domain = address.slice(address.lastIndexOf("@") + 1).toLowerCase();
  const both = async (by: (kind: Kind, domain: string, looking: Looking) => Promise<ServerShape | null>) =>
    Promise.all([by(IMAP, domain, looking), by(SMTP, domain, looking)]);
  const byName = await both(named);
  const [imap, smtp] = byName.every(Boolean) ? byName : (await both(usual)).map((one, i) => byName[i] ?? one);
  const how = byName.some(Boolean) ? "named" : (imap ?? smtp) ? "usual" : "guessed";
  return {
    how,
    servers: {
      imap: imap ?? guessed(IMAP, domain),
      smtp: smtp ?? guessed(SMTP, domain),
      user: address,
      method: "password",
    },
  };
}
