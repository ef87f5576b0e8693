import { useState, type FormEvent } from "react";
import type { AccountShape, FoundServers, Servers, TestAnswer, TokenSource } from "@/core/api";
import { BUTTON, FIELD } from "../contacts/change";
import { write } from "../state/api";
import { accounts, reads } from "../state/reads";
import { refreshSettings } from "../state/settings";
import { notify } from "../state/store";
import { FolderChoice } from "./folder-choice";
import { ServerFields } from "./server-fields";
import { TokenFields } from "./token-fields";

const HOW: Readonly<Record<FoundServers["how"], string>> = {
  named: "The address's domain names these servers.",
  usual: "Servers of the usual names answer there. Look whether they are yours.",
  guessed: "Nothing was found: these are the usual names. Write the right ones.",
};

const wordsOf = (error: unknown): string => (error instanceof Error ? error.message : "The server could not be asked.");

const SECRET: Readonly<Record<Servers["method"], string>> = {
  password: "Password",
  token: "Token",
  renewed: "Refresh token",
};
const NO_TOKENS: TokenSource = { endpoint: "", clientId: "", scope: "" };

/** What each side said. */
function Said({ tried }: { readonly tried: TestAnswer }) {
  return (
    <ul aria-label="What the servers said" className="grid gap-1">
      {(["imap", "smtp"] as const).map((side) => (
        <li key={side} className={`rounded-sm px-2 py-1 ${tried[side].ok ? "bg-spruce-soft" : "bg-amber-soft"}`}>
          <b>{side.toUpperCase()}</b> {tried[side].ok ? "works: " : "does not work: "}
          {tried[side].said}
        </li>
      ))}
    </ul>
  );
}

/**
 * Connects an account, or mends one: nothing is stored that does not work.
 * @param of the account that is mended; null for a new one
 */
export function Connect({ of, onDone }: { readonly of: AccountShape | null; readonly onDone: () => void }) {
  const [address, setAddress] = useState(of?.address ?? "");
  const [name, setName] = useState(of?.name ?? "");
  const [secret, setSecret] = useState("");
  const [clientSecret, setClientSecret] = useState("");
  const [without, setWithout] = useState<readonly string[]>([]);
  const [since, setSince] = useState(of?.since?.slice(0, 10) ?? "");
  const [servers, setServers] = useState<Servers | null>(of?.servers ?? null);
  const [hint, setHint] = useState<string | null>(null);
  const [tried, setTried] = useState<TestAnswer | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [isBusy, setBusy] = useState(false);
  // What was tried is not what is written now.
  const renew =
    <T,>(change: (value: T) => void) =>
    (value: T) => {
      setTried(null);
      change(value);
    };
  const during = async (work: () => Promise<void>) => {
    setBusy(true);
    setProblem(null);
    try {
      await work();
    } catch (error) {
      setProblem(wordsOf(error));
    }
    setBusy(false);
  };
  const lookUp = () =>
    during(async () => {
      const found = await write<FoundServers>("POST", "/accounts/find", { address: address.trim() });
      setServers(found.servers);
      setHint(HOW[found.how]);
    });
  const secrets = () => ({
    ...(secret === "" ? {} : { secret }),
    ...(clientSecret === "" || servers?.method !== "renewed" ? {} : { clientSecret }),
  });
  const attempt = () =>
    during(async () => setTried(await write<TestAnswer>("POST", "/accounts/test", { servers, ...secrets() })));
  const store = () =>
    during(async () => {
      setTried(null);
      const from = since === "" ? null : new Date(`${since}T00:00:00`).toISOString();
      if (of) {
        await write("PATCH", `/accounts/${of.id}`, { name, servers, since: from, ...secrets() });
      } else
        await write("POST", "/accounts", {
          address: address.trim(),
          name,
          servers,
          since: from,
          without,
          ...secrets(),
        });
      await Promise.all([reads.invalidateQueries(accounts), refreshSettings()]);
      notify(of ? `${address} is changed.` : `${address} is connected. Its mail comes in now, the newest first.`);
      onDone();
    });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void (servers === null ? lookUp() : store());
  };
  return (
    <form
      onSubmit={submit}
      aria-label={of ? `Change ${of.address}` : "Connect an account"}
      className="grid max-w-[640px] gap-3 text-[13px]"
    >
      {!of && (
        <label className="flex flex-wrap items-center gap-2">
          <span className="w-24">Address</span>
          <input
            type="email"
            value={address}
            autoFocus
            required
            onChange={({ target }) => setAddress(target.value)}
            className={`${FIELD} min-w-0 flex-1 basis-56`}
          />
        </label>
      )}
      {servers && (
        <>
          {hint && <p className="text-ink-2">{hint}</p>}
          <ServerFields servers={servers} onChange={renew(setServers)} />
          {servers.method === "renewed" && (
            <TokenFields
              tokens={servers.tokens ?? NO_TOKENS}
              onChange={renew((tokens: TokenSource) => setServers({ ...servers, tokens }))}
              clientSecret={clientSecret}
              onClientSecret={renew(setClientSecret)}
            />
          )}
          <label className="flex flex-wrap items-center gap-2">
            <span className="w-24">{SECRET[servers.method]}</span>
            <input
              type="password"
              value={secret}
              autoComplete="off"
              required={!of}
              placeholder={of ? "as it is" : ""}
              onChange={({ target }) => renew(setSecret)(target.value)}
              className={`${FIELD} min-w-0 flex-1 basis-56`}
            />
          </label>
          <label className="flex flex-wrap items-center gap-2">
            <span className="w-24">Called</span>
            <input
              value={name}
              placeholder={address}
              onChange={({ target }) => setName(target.value)}
              className={`${FIELD} min-w-0 flex-1 basis-56`}
            />
          </label>
          <label className="flex flex-wrap items-center gap-2">
            <span className="w-24">Mail since</span>
            <input type="date" value={since} onChange={({ target }) => setSince(target.value)} className={FIELD} />
            <span className="text-ink-2">empty for all of it; older mail stays on the server</span>
          </label>
        </>
      )}
      {tried && <Said tried={tried} />}
      {tried && !of && tried.folders.length > 1 && (
        <FolderChoice folders={tried.folders} without={without} onChange={setWithout} />
      )}
      {problem && (
        <p role="alert" className="rounded-sm bg-amber-soft px-2 py-1">
          {problem}
        </p>
      )}
      <p className="flex flex-wrap items-center gap-2">
        <button type="submit" disabled={isBusy} className="rounded-sm bg-ink px-3 py-1 text-paper disabled:opacity-60">
          {servers === null ? "Find its servers" : of ? "Store" : "Connect"}
        </button>
        {servers && (secret !== "" || !of) && (
          <button
            type="button"
            disabled={isBusy || secret === ""}
            onClick={() => void attempt()}
            className={`${BUTTON} disabled:opacity-60`}
          >
            Try it
          </button>
        )}
        <button type="button" onClick={onDone} className={BUTTON}>
          Leave it
        </button>
        {isBusy && <span role="status">Asking…</span>}
      </p>
      <p className="text-ink-2">Passwords are sealed with a key that is not in the database, and never shown again.</p>
    </form>
  );
}
