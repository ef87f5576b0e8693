"use client";
import { useEffect, useMemo } from "react";
import { groupOf, isHead, isSelected, type Viewport } from "@/core/list";
import { soughtIn, SUSPECT } from "@/core/narrow";
import { useNow } from "../parts/now";
import { wayText } from "../parts/way";
import { expressionOf } from "../state/browse";
import { ASKS, canGuess, junkOf, rowGuess, wantGuesses } from "../state/guesses";
import { groupVerdicts } from "../state/listed";
import { mailbox, useView } from "../state/store";
import { weigh } from "../state/weigh";
import { groupName, Head } from "./head";
import { Row, type Look, type RowState } from "./row";

interface Props {
  readonly viewport: Viewport;
  readonly rowPx: number;
  readonly look: Look;
  /** The row a finger moves, and how far. */
  readonly swiping: { readonly row: string; readonly offsetPx: number } | null;
}

/** How probably it is junk, where there is anything to it. */
const junkText = (id: number): string => {
  const percent = junkOf(id)?.percent ?? 0;
  return percent > 0 ? `junk ${percent} %` : "";
};

const SECOND_MS = 1000;
const MINUTE_MS = 60_000;

/** Labels of a row, and where it is where that is not the same for all: beside its subject. */
function useHints(): (row: number) => string {
  const directory = useView((v) => v.directory);
  const showFolder = useView((v) => !v.place.startsWith("folder="));
  const weighs = useView((v) => v.order === "importance");
  // What is known of junk by now, where the list goes by it.
  const judged = useView((v) => (v.order === "likely junk" ? v.guessed : null));
  const outgoing = useView((v) => v.outgoing);
  // Seconds are counted while something is about to leave; rows whose words stay the same are not drawn anew.
  const nowMs = useNow(outgoing.size > 0 ? SECOND_MS : MINUTE_MS);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  return useMemo(() => {
    const drafts = directory.folders.find(({ role }) => role === "drafts")?.id as number | undefined;
    const folders = new Map(directory.folders.map((f) => [f.id as number, f.path]));
    const labels = new Map(directory.labels.map((label) => [label.id as number, label.name]));
    return (row) => {
      const { labelSets, labelSet, folder, id, traits } = mailbox.columns;
      const way = outgoing.get(id[row]!);
      const going = way ? wayText(way, zone, nowMs) : folder[row] === drafts ? "draft" : "";
      const names = labelSets[labelSet[row]!]!.map((id) => labels.get(id) ?? "");
      const why = weighs ? weigh(row, nowMs).reasons.slice(0, 3) : judged !== null ? [junkText(id[row]!)] : [];
      const odd = (traits[row]! & SUSPECT) === 0 ? "" : "suspect";
      return [going, odd, ...why, ...names, showFolder ? (folders.get(folder[row]!) ?? "") : ""]
        .filter(Boolean)
        .join(", ");
    };
  }, [directory, showFolder, weighs, judged, outgoing, zone, nowMs]);
}

/** Rows drawn at once, usually: as many pieces of the page are used again and again. */
const SLOTS = 64;

function stateOf(row: number): RowState {
  const { bits, marker, dueMs, deferMs, backMs, awaitMs, handMs } = mailbox.columns;
  return {
    bits: bits[row]!,
    marker: marker[row]!,
    dueMs: dueMs[row]!,
    deferMs: deferMs[row]!,
    backMs: backMs[row]!,
    awaitMs: awaitMs[row]!,
    handMs: handMs[row]!,
  };
}

/** What a row says of where its message belongs; of those decided nothing is guessed any more. */
function belongsOf(row: number, isDecided: boolean): { readonly belongs: string; readonly sure: number } {
  const guess = isDecided ? null : rowGuess(row);
  if (!guess) return { belongs: "", sure: 0 };
  return guess === ASKS ? { belongs: "ask", sure: 0 } : { belongs: guess.path.split("/").at(-1)!, sure: guess.percent };
}

/** Asks for guesses for what is in sight, and for as much before and behind it. */
function useGuesses({ first, last }: Viewport): void {
  const listing = useView((v) => v.listing);
  const learned = useView((v) => v.learned);
  useEffect(() => {
    void learned;
    const window = last - first;
    const ids: number[] = [];
    for (let at = Math.max(0, first - window); at < Math.min(listing.items.length, last + window); at++) {
      const row = listing.items[at]!;
      if (!isHead(row) && canGuess(row)) ids.push(mailbox.columns.id[row]!);
    }
    wantGuesses(ids);
  }, [listing, first, last, learned]);
}

/** The rows in sight, heads of groups among them, in a block that moves with the scroll bar. */
export function ListRows({ viewport, rowPx, look, swiping }: Props) {
  const listing = useView((v) => v.listing);
  const grouping = useView((v) => v.group);
  const focus = useView((v) => v.focus);
  const selection = useView((v) => v.selection);
  const selected = useView((v) => v.selected);
  const decided = useView((v) => v.decided);
  const together = useView((v) => v.together);
  const notDone = useView((v) => v.notDone);
  const skipped = useView((v) => v.pass?.skipped);
  // What a row shows may have changed with it.
  useView((v) => v.version);
  const directory = useView((v) => v.directory);
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const nowMs = useNow(MINUTE_MS);
  const hintOf = useHints();
  useGuesses(viewport);
  useView((v) => v.guessed);
  const sought = useMemo(() => soughtIn(expressionOf(place, conditions)), [place, conditions]);
  const { first, last, base, blockPx } = viewport;
  const { items, groups } = listing;
  const verdictOf = (id: number) => decided.get(id) ?? together.find(({ ids }) => ids.has(id))?.verdict;
  const verdicts = useMemo(() => groupVerdicts({ listing, decided, together }), [listing, decided, together]);
  const selectedIn = (group: number) =>
    listing.members(group).filter((row) => isSelected(selection, mailbox.columns.id[row]!)).length;
  // A page further on is drawn in the places of the last one: making new ones and dropping the old takes longer.
  const slots = Math.max(SLOTS, last - first);
  const drawn = (at: number) => {
    const row = items[at]!;
    const topPx = (at - base) * rowPx;
    if (isHead(row)) {
      const group = groups[groupOf(row)]!;
      return (
        <Head
          key={`head ${group.key}`}
          group={group}
          name={together.find(({ key }) => key === group.key)?.text ?? groupName(group, grouping, directory, zone)}
          verdict={verdicts.get(groupOf(row))}
          place={at}
          topPx={topPx}
          heightPx={rowPx}
          focused={at === focus}
          selected={selected === 0 ? 0 : selectedIn(groupOf(row))}
        />
      );
    }
    const id = mailbox.columns.id[row]!;
    const verdict = verdictOf(id);
    return (
      <Row
        key={at % slots}
        {...stateOf(row)}
        row={row}
        generation={mailbox.generation}
        place={at}
        topPx={topPx}
        look={look}
        focused={at === focus}
        ticked={selected > 0 && isSelected(selection, id) && (selection.kind === "some" || verdict === undefined)}
        verdict={verdict}
        notDone={notDone.get(id)}
        skipped={skipped?.has(id) ?? false}
        markers={directory.markers}
        hint={hintOf(row)}
        {...belongsOf(row, verdict !== undefined)}
        nowMs={nowMs}
        sought={sought}
        offsetPx={swiping?.row === String(id) ? swiping.offsetPx : 0}
      />
    );
  };
  return (
    <div role="presentation" className="absolute inset-x-0" style={{ top: blockPx }}>
      {Array.from({ length: Math.max(0, last - first) }, (_, i) => drawn(first + i))}
    </div>
  );
}
