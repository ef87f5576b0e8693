import { useState } from "react";
import { write } from "../state/api";
import { notify } from "../state/store";
import { BUTTON } from "./sessions";
import { ShownOnce } from "./shown-once";

interface Link {
  readonly link: string;
  readonly days: number;
}

/** A link for somebody else, who begins with a mailbox of their own. */
export function Invite() {
  const [link, setLink] = useState<Link | null>(null);
  const make = () =>
    write<Link>("POST", "/invitations").then(setLink, (error: Error) =>
      notify(`Not made: ${error.message}`, "trouble"),
    );
  const address = link && `${location.origin}/sign-in#invitation=${link.link}`;
  return (
    <section aria-labelledby="invite" className="px-3.5 py-3">
      <h2 id="invite" className="pb-1.5 font-bold">
        Somebody else
      </h2>
      <p className="max-w-[60ch] pb-2 text-ink-2">
        A link lets one person begin here, with mail that only they see. It works once.
      </p>
      {address === null ? (
        <button type="button" onClick={() => void make()} className={BUTTON}>
          Make a link
        </button>
      ) : (
        <div className="flex flex-wrap items-center gap-2">
          <ShownOnce label="The link" value={address} copied="Copied. Give it to them yourself." />
          <span className="text-ink-2">for {link!.days} days</span>
        </div>
      )}
    </section>
  );
}
