"use client";
import type { Label } from "@/core/place";
import { TONE } from "../parts/tone";
import { runSteps } from "../state/run";

/** The labels of a message, each of which can be taken off it. */
export function LabelChips({ message, labels }: { readonly message: number; readonly labels: readonly Label[] }) {
  return labels.map((label) => (
    <span key={label.id} className={`inline-flex rounded-sm pl-1.5 ${TONE[label.colour]}`}>
      {label.name}
      <button
        type="button"
        onClick={() => runSteps(`Take off ${label.name}`, [{ do: "label", remove: label.name }], [message])}
        aria-label={`Take the label ${label.name} off this message`}
        title="Take this label off the message"
        className="ml-1 px-1 print:hidden"
      >
        ×
      </button>
    </span>
  ));
}
