import { useQuery } from "@tanstack/react-query";
import { useHeard } from "../input/heard";
import Link from "next/link";
import type { InvitationShape, Message } from "@/core/api";
import { REPLY_WORDS, ruleText } from "@/core/calendar";
import { clockText, dateText, longDayText, plural } from "../parts/words";
import { write } from "../state/api";
import { byHand } from "../state/hands";
import { invitation, reads } from "../state/reads";
import { notify, useView } from "../state/store";

type Deed = "accepted" | "tentative" | "declined" | "note" | "take" | "remove";

const ASKING: readonly (readonly [deed: Deed, text: string])[] = [
  ["accepted", "Come"],
  ["tentative", "Perhaps"],
  ["declined", "Do not come"],
];

/** What can be done about it, by its digit. */
function deedsOf({ kind, event, attendees }: InvitationShape): readonly (readonly [deed: Deed, text: string])[] {
  if (kind === "request" || kind === "update") return ASKING;
  if (event === null) return [];
  if (kind === "cancel") return [["remove", "Take it out of the calendar"]];
  if (kind === "reply") return attendees.length > 0 ? [["note", "Note the answer"]] : [];
  return kind === "counter" ? [["take", "Take that time"]] : [];
}

function headOf({ kind, organizer, attendees, event }: InvitationShape): string {
  const who = attendees[0]?.name || attendees[0]?.address || "somebody";
  switch (kind) {
    case "request":
      return organizer ? `${organizer} asks you to` : "An event";
    case "update":
      return `${organizer || "Somebody"} has changed`;
    case "old":
      return "Old by now: a newer word about it came already";
    case "cancel":
      return event === null ? "Called off; it is in no calendar here" : "Called off";
    case "reply":
      return `${who}: ${REPLY_WORDS[attendees[0]?.reply ?? "needs-action"].toLowerCase()}`;
    case "counter":
      return `${who} proposes another time`;
  }
}

const spanText = ({ start, end }: { readonly start: string; readonly end: string }, zone: string): string =>
  `${longDayText(start, zone)}, ${clockText(start, zone)}–${clockText(end, zone)}`;

async function answer(message: number, title: string, deed: Deed): Promise<void> {
  try {
    const after = await byHand(() =>
      write<InvitationShape | null>("POST", `/messages/${message}/invitation`, { do: deed }),
    );
    reads.setQueryData(invitation(message).queryKey, after);
    const reply = ASKING.some(([one]) => one === deed);
    notify(
      reply
        ? `${REPLY_WORDS[deed as "accepted"]}: ${title}. The answer is in the outbox; U calls it back.`
        : `${title}: done. U takes it back.`,
    );
  } catch (error) {
    notify(error instanceof Error ? `Not answered: ${error.message}` : "Not answered.", "trouble");
  }
  void reads.invalidateQueries({ queryKey: ["events"] });
}

/** What a message asks somebody to, or says about what was asked: when, what else is then, and the answer by one key. */
export function Invitation({ message }: { readonly message: Message }) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const dialog = useView((v) => v.dialog);
  const { data, error } = useQuery(invitation(message.id));
  const deeds = data ? deedsOf(data) : [];
  const down = (event: KeyboardEvent) => {
    const at = Number(/^Digit([1-3])$/.exec(event.code)?.[1] ?? 0) - 1;
    const [deed] = deeds[at] ?? [];
    if (!deed || !data || !event.shiftKey || event.ctrlKey || event.altKey || event.metaKey) return;
    if (event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement) return;
    void answer(message.id, data.title, deed);
    event.preventDefault();
    event.stopImmediatePropagation();
  };
  useHeard("keydown", down, { capture: true, isOn: dialog === null });
  if (error) return <p className="mt-2 text-[13px] text-ink-2">The invitation could not be read: {error.message}</p>;
  if (!data) return null;
  return (
    <section
      aria-label="Invitation"
      className={`mt-3 border border-edge px-3 py-2 text-[13px] ${data.kind === "cancel" ? "bg-brick-soft" : "bg-well"}`}
    >
      <p className="text-ink-2">{headOf(data)}</p>
      <p className={`text-[15px] font-bold ${data.kind === "cancel" ? "line-through" : ""}`}>{data.title}</p>
      <p>
        <span className="num">{data.wholeDays ? longDayText(data.start, zone) : spanText(data, zone)}</span>
        {data.rule && `, ${ruleText(data.rule, (day) => longDayText(`${day}T12:00:00Z`, zone))}`}
        {data.place && ` · ${data.place}`}
      </p>
      {data.before && (
        <p className="num text-ink-2">
          until now: <s>{spanText(data.before, zone)}</s>
        </p>
      )}
      {data.kind !== "cancel" && data.kind !== "reply" && (
        <p className={data.clashes.length > 0 ? "font-semibold text-brick" : "text-ink-2"}>
          {data.clashes.length === 0
            ? "Nothing else is then."
            : `At the same time: ${data.clashes
                .slice(0, 3)
                .map((one) => `${one.title} (${dateText(one.start, zone, new Date())})`)
                .join(", ")}${data.clashes.length > 3 ? ` and ${plural(data.clashes.length - 3, "other")}` : ""}`}
        </p>
      )}
      {data.problems.map((text) => (
        <p key={text} className="text-ink-2">
          {text}
        </p>
      ))}
      <p className="mt-2 flex flex-wrap items-center gap-2">
        {deeds.map(([deed, text], i) => (
          <button
            key={deed}
            type="button"
            aria-pressed={deeds === ASKING ? data.reply === deed : undefined}
            onClick={() => void answer(message.id, data.title, deed)}
            className={`rounded-sm border border-edge px-2.5 py-1 ${data.reply === deed ? "bg-ink text-paper" : "bg-sheet"}`}
          >
            {text} <kbd className="max-md:hidden">Shift+{i + 1}</kbd>
          </button>
        ))}
        {data.reply && data.reply !== "needs-action" && deeds === ASKING && (
          <span className="text-ink-2">answered: {REPLY_WORDS[data.reply].toLowerCase()}</span>
        )}
        {data.event !== null && (
          <Link href="/agenda" className="underline">
            in the agenda
          </Link>
        )}
      </p>
    </section>
  );
}
