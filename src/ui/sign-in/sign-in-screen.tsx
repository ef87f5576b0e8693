"use client";
import { useEffect, useState, type ReactNode } from "react";
import type { SignInShape } from "@/core/api";
import { get, Refused, write } from "../state/api";
import { emptyBrowser } from "../state/empty-browser";
import { pageAfter } from "../state/signed-in";
import { BeginForm } from "./begin-form";
import { Sends } from "./form";
import { Labelled } from "./labelled";
import { PasskeyButton } from "./passkey-button";

/** All of the app begins anew with whoever it is. */
const goOn = () => location.assign(pageAfter(location.search));

/** Whoever was here before has gone. */
const begun = () => void emptyBrowser().then(goOn);

/** What stands behind # in the address: no server sees it, nor does it stay there. */
function takeSecret(): { readonly kind: "link" | "invitation"; readonly secret: string } | null {
  const [, kind, secret] = /^#(link|invitation)=([\w.-]{1,100})$/.exec(location.hash) ?? [];
  return secret === undefined ? null : { kind: kind as "link" | "invitation", secret };
}

const asksForCode = (error: unknown): boolean =>
  error instanceof Refused && error.problem.type === "urn:tachyne:code-needed";

function PasswordForm() {
  const [address, setAddress] = useState("");
  const [password, setPassword] = useState("");
  /** Null until one is asked for. */
  const [code, setCode] = useState<string | null>(null);
  const send = async () => {
    try {
      await write("POST", "/sign-in", { address: address.trim(), password, ...(code ? { code } : {}) });
    } catch (error) {
      // Right so far: the next thing that is typed is the code.
      if (code === null && asksForCode(error)) return setCode("");
      throw error;
    }
    goOn();
  };
  return (
    <Sends
      label="Sign in"
      button="Sign in"
      isReady={address.trim() !== "" && password !== "" && code !== ""}
      send={send}
    >
      <Labelled label="E-mail address" type="email" value={address} onChange={setAddress} fills="username" isFirst />
      <Labelled label="Password" type="password" value={password} onChange={setPassword} fills="current-password" />
      {code !== null && (
        <Labelled
          label="Code"
          value={code}
          onChange={setCode}
          fills="one-time-code"
          hint="The six digits your app shows now, or a code on paper."
          isFirst
        />
      )}
    </Sends>
  );
}

type State =
  | { readonly is: "looking" }
  | { readonly is: "away" }
  | {
      readonly is: "here";
      readonly who: SignInShape;
      readonly said: string | null;
      readonly invitation: string | null;
    };

async function look(): Promise<State> {
  const found = takeSecret();
  let said: string | null = null;
  if (found?.kind === "link") {
    try {
      await write("POST", "/sign-in/link", { link: found.secret });
    } catch (error) {
      // A server that is away has not used it up: it is tried again.
      if (!(error instanceof Refused)) throw error;
      said = error.message;
    }
    history.replaceState(null, "", location.pathname + location.search);
    if (said === null) {
      goOn();
      return { is: "looking" };
    }
  }
  const who = await get<SignInShape>("/sign-in");
  // Whoever is out leaves nothing to read for the next one; what they decided waits for them.
  if (who.person === null) await emptyBrowser();
  return { is: "here", who, said, invitation: found?.kind === "invitation" ? found.secret : null };
}

const TITLE = "text-[17px] font-bold";
const TITLES = { in: "Sign in", begin: "Begin", invited: "You are invited" } as const;

/** Of a server that others reach nobody is the first person for having come first. */
const isOpenTo = ({ isEmpty, byLink }: SignInShape): boolean => isEmpty && !byLink;

function WayIn({ who, invitation }: { readonly who: SignInShape; readonly invitation: string | null }): ReactNode {
  if (invitation !== null || isOpenTo(who)) return <BeginForm invitation={invitation} onIn={begun} />;
  if (who.isEmpty) return <code className="bg-paper px-2.5 py-1.5 text-[13px]">npm run sign-in</code>;
  return (
    <>
      <PasswordForm />
      <PasskeyButton onIn={goOn} />
    </>
  );
}

function Inside({ state }: { readonly state: State }): ReactNode {
  if (state.is !== "here")
    return (
      <>
        <h1 className={TITLE}>{TITLES.in}</h1>
        {state.is === "looking" ? (
          <p role="status">One moment…</p>
        ) : (
          <p role="alert">The server does not answer. It is asked again.</p>
        )}
      </>
    );
  const { who, said, invitation } = state;
  const title = who.isEmpty ? TITLES.begin : invitation === null ? TITLES.in : TITLES.invited;
  if (who.person && invitation === null)
    return (
      <>
        <h1 className={TITLE}>You are signed in</h1>
        <p>
          As {who.person.name}, {who.person.address}.
        </p>
        <a href={pageAfter(location.search)} className="justify-self-start rounded-sm bg-ink px-4 py-1.5 text-paper">
          To the bench
        </a>
      </>
    );
  return (
    <>
      <h1 className={TITLE}>{title}</h1>
      {said !== null && (
        <p role="alert" className="rounded-sm bg-brick-soft px-2.5 py-1.5 text-[13px]">
          {said}
        </p>
      )}
      {who.isEmpty && (
        <p className="text-[13px]">
          {isOpenTo(who) || invitation !== null
            ? "Nobody has a mailbox here yet. Whoever begins may invite others."
            : "Nobody has a mailbox here yet. Whoever runs this machine begins, by a link that it prints:"}
        </p>
      )}
      {who.person && (
        <p className="text-[13px]">
          Here {who.person.address} is signed in. Whoever begins takes their place in this browser.
        </p>
      )}
      <WayIn who={who} invitation={invitation} />
      {invitation === null && !who.isEmpty && (
        <p className="border-t border-rule pt-3 text-xs text-ink-2">
          Forgotten? Whoever runs this machine can make a link for you: <code>npm run sign-in</code>.
        </p>
      )}
    </>
  );
}

const RETRY_MS = 3000;

/** Where one comes in: with a password, by a link, as the first person, or invited. */
export function SignInScreen() {
  const [state, setState] = useState<State>({ is: "looking" });
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const once = () =>
      look().then(setState, () => {
        setState({ is: "away" });
        timer = setTimeout(() => void once(), RETRY_MS);
      });
    // A link that is opened where this screen is already changes nothing but what stands behind #.
    const again = () => void once();
    window.addEventListener("hashchange", again);
    again();
    return () => {
      clearTimeout(timer);
      window.removeEventListener("hashchange", again);
    };
  }, []);
  return (
    <main id="main" className="grid h-full place-items-center overflow-auto bg-paper p-4">
      <div className="w-full max-w-[360px]">
        <p className="flex items-center gap-2 px-1 pb-3 text-base font-bold">
          <svg aria-hidden width="18" height="12" viewBox="0 0 18 12" className="fill-spruce">
            <path d="M1 0h3v12H1zM6 0h5v12H6zM13 0h4v12h-4z" />
          </svg>
          Tachyne
        </p>
        <div className="grid gap-3 border-t-2 border-ink bg-sheet px-4 py-4">
          <Inside state={state} />
        </div>
      </div>
    </main>
  );
}
