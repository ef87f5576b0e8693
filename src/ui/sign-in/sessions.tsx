import type { SessionShape, SessionWay } from "@/core/api";
import { dateText } from "../parts/words";
import { notify, useView } from "../state/store";
import { agentText } from "./agent";

export const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px] max-md:py-1.5";

const WAYS: Readonly<Record<SessionWay, string>> = {
  password: "by password",
  passkey: "by passkey",
  link: "by a link",
  beginning: "when you began",
  invitation: "by your invitation",
};

interface SessionsProps {
  readonly sessions: readonly SessionShape[];
  readonly onEnd: (id: string) => Promise<unknown>;
  readonly onEndOthers: () => Promise<unknown>;
}

/** Everywhere somebody is signed in, each to be ended. */
export function Sessions({ sessions, onEnd, onEndOthers }: SessionsProps) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const text = (at: number) => dateText(new Date(at).toISOString(), zone, new Date());
  const said = (work: Promise<unknown>, done: string) =>
    void work.then(
      () => notify(done),
      (error: Error) => notify(`Not done: ${error.message}`, "trouble"),
    );
  return (
    <section aria-labelledby="sessions" className="border-b border-rule px-3.5 py-3">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-1.5">
        <h2 id="sessions" className="font-bold">
          Where you are signed in
        </h2>
        {sessions.length > 1 && (
          <button
            type="button"
            onClick={() => said(onEndOthers(), "You are signed in only here now.")}
            className={BUTTON}
          >
            Sign out everywhere else
          </button>
        )}
      </div>
      <ul aria-label="Sessions">
        {sessions.map(({ id, way, agent, created, seen, isThis }) => (
          <li key={id} className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-rule-soft py-1.5">
            <span className="w-64 max-w-full truncate font-semibold max-md:w-auto max-md:flex-1" title={agent}>
              {agentText(agent)}
            </span>
            <span className="min-w-0 flex-1 text-ink-2 max-md:order-last max-md:basis-full">
              since {text(created)}, {WAYS[way]}
              {isThis ? "" : `; used last ${text(seen)}`}
            </span>
            {isThis ? (
              <span className="rounded-sm bg-spruce-soft px-1.5">here</span>
            ) : (
              <button type="button" onClick={() => said(onEnd(id), "That session is over.")} className={BUTTON}>
                End
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
