"use client";
import { COLOURS } from "@/core/place";
import { AddLine } from "../parts/add-line";
import { TextEdit } from "../parts/text-edit";
import { TONE } from "../parts/tone";
import { countText } from "../parts/words";
import { useView } from "../state/store";
import { useCounts } from "../state/tally";
import { alter, change, make } from "./act";

/** Labels: as many on a message as one likes. Removing one takes it off all mail and touches nothing else. */
export function Labels() {
  const labels = useView((v) => v.directory.labels);
  const counts = useCounts();
  return (
    <section aria-labelledby="labels-title">
      <h2 id="labels-title" className="mb-1 text-[13px] font-bold">
        Labels
      </h2>
      <AddLine
        label="Name of a new label"
        placeholder="Name of a new label; Season/Winter nests it"
        verb="Make"
        onAdd={(name) => make("label", name)}
        className="mb-2"
      />
      <ul className="text-[13px]" aria-label="All labels">
        {labels.map((label) => (
          <li key={label.id} className="flex items-center gap-2 border-b border-rule-soft py-0.5">
            <span style={{ width: 10 * (label.name.split("/").length - 1) }} aria-hidden />
            <span aria-hidden className={`h-4 w-4 shrink-0 rounded-sm ${TONE[label.colour]}`} />
            <TextEdit
              label={`Name of ${label.name}`}
              value={label.name}
              onChange={(name) =>
                alter(`/labels/${label.id}`, { name: label.name }, { name }, `${label.name} is ${name} now`)
              }
              className="flex-1"
            />
            <select
              aria-label={`Colour of ${label.name}`}
              value={label.colour}
              onChange={(event) =>
                void alter(
                  `/labels/${label.id}`,
                  { colour: label.colour },
                  { colour: event.target.value },
                  `${label.name} is ${event.target.value} now`,
                )
              }
              className="rounded-sm border border-rule bg-sheet px-1 py-0.5 text-xs"
            >
              {COLOURS.map((colour) => (
                <option key={colour}>{colour}</option>
              ))}
            </select>
            <span className="num w-12 text-right text-xs text-ink-2">{countText(counts.label(label.id)?.total)}</span>
            <button
              type="button"
              aria-label={`Remove the label ${label.name}`}
              onClick={() =>
                void change(
                  "DELETE",
                  `/labels/${label.id}`,
                  undefined,
                  `The label ${label.name} is off all mail. U takes it back.`,
                )
              }
              className="rounded-sm border border-rule bg-sheet px-1.5 py-0.5 text-xs"
            >
              remove
            </button>
          </li>
        ))}
        {labels.length === 0 && <li className="text-ink-2">There are no labels yet.</li>}
      </ul>
    </section>
  );
}
