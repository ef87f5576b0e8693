import type { Group, Grouping } from "@/core/list";
import { SIZE_STEPS } from "@/core/list";
import type { Directory } from "@/core/place";
import { countText, longDayText, sizeText, plural } from "../parts/words";
import { mailbox } from "../state/store";

/** What a group is called. */
export function groupName(group: Group, grouping: Grouping, directory: Directory, zone: string): string {
  const { row, key } = group;
  switch (grouping) {
    case "sender":
      return mailbox.text(row, "fromName") || mailbox.text(row, "fromAddress") || "no sender";
    case "list":
      return mailbox.text(row, "list") || "from no mailing list";
    case "thread":
      return mailbox.text(row, "subject") || "(no subject)";
    case "day":
      return longDayText(new Date(mailbox.columns.dateMs[row]!).toISOString(), zone);
    case "folder":
      return directory.folders.find((folder) => String(folder.id) === key)?.path ?? "another folder";
    case "label": {
      const names = directory.labels.filter((label) => key.split(",").includes(String(label.id)));
      return names.map((label) => label.name).join(", ") || "no label";
    }
    case "size": {
      const step = Number(key);
      const most = SIZE_STEPS[step]!;
      if (step === 0) return `under ${sizeText(most)}`;
      const least = sizeText(SIZE_STEPS[step - 1]!);
      return most === Infinity ? `${least} and more` : `${least} to ${sizeText(most)}`;
    }
    case "none":
      return "";
  }
}

interface Props {
  readonly group: Group;
  readonly name: string;
  readonly place: number;
  readonly topPx: number;
  readonly heightPx: number;
  readonly focused: boolean;
  /** How many of its messages are selected. */
  readonly selected: number;
  /** What was decided about all of it; undefined while some is open. */
  readonly verdict: string | undefined;
}

/** The head of a group: what its messages have in common, how many they are, and whether it is folded. */
export function Head({ group, name, place, topPx, heightPx, focused, selected, verdict }: Props) {
  const { count, unread, folded } = group;
  return (
    <div
      role="option"
      id={`head-${place}`}
      aria-selected={selected === count}
      aria-label={`Group ${name}, ${plural(count, "message")}, ${countText(unread)} unread${verdict === undefined ? "" : `, decided, ${verdict}`}${folded ? ", folded" : ""}`}
      data-place={place}
      data-head={group.key}
      data-focused={focused || undefined}
      style={{ top: topPx, height: heightPx }}
      className={`absolute inset-x-0 flex cursor-default items-center gap-2 border-b border-rule bg-well pr-2.5 pl-2 text-[13px] font-bold whitespace-nowrap ${focused ? "shadow-[inset_0_0_0_2px_var(--ink)]" : ""}`}
    >
      <span
        aria-hidden
        data-tick
        className={`h-3 w-3 shrink-0 rounded-[2px] border-[1.5px] ${selected === count ? "border-spruce bg-spruce" : selected > 0 ? "border-spruce bg-spruce-soft" : "border-edge"}`}
      />
      <span aria-hidden className="w-3 font-mono text-ink-2">
        {folded ? "+" : "−"}
      </span>
      <span className={`min-w-0 truncate ${verdict === undefined ? "" : "font-normal text-ink-3 line-through"}`}>
        {name}
      </span>
      {verdict !== undefined && <span className="shrink-0 text-xs text-spruce">{verdict}</span>}
      <span className="num ml-auto shrink-0 text-xs font-normal text-ink-2">
        {unread > 0 && verdict === undefined && `${countText(unread)} unread of `}
        {countText(count)}
      </span>
    </div>
  );
}
