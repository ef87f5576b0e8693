"use client";
import { useState } from "react";
import type { Home } from "@/core/api";
import { COLOURS, MARKER_SETS, type Marker } from "@/core/place";
import { TextEdit } from "../parts/text-edit";
import { TONE } from "../parts/tone";
import { countText } from "../parts/words";
import { editsOf, inHome } from "../state/keepsakes";
import { notify, useView } from "../state/store";
import { useCounts } from "../state/tally";

const MOST = 8;
const SMALL = "rounded-sm border border-rule bg-sheet px-1.5 py-0.5 text-xs disabled:opacity-50";

const ofMarkers = editsOf<Home["markers"][number]>({ path: "/markers", ...inHome("markers") });

function Line({ marker, at, last }: { readonly marker: Marker; readonly at: number; readonly last: boolean }) {
  const count = useCounts().marker(marker.id);
  const { used } = marker;
  const patch = (after: object, name: string) => ofMarkers.change(marker, after, name, { position: at });
  return (
    <li className="flex flex-wrap items-center gap-1.5 border-b border-rule-soft py-0.5">
      <span
        className={`h-[19px] w-[19px] shrink-0 rounded-sm text-center font-mono text-xs leading-[19px] font-bold ${TONE[marker.colour]}`}
      >
        {marker.letter}
      </span>
      <TextEdit
        label={`Letter of ${marker.letter}`}
        value={marker.letter}
        onChange={(letter) =>
          patch({ letter: letter.toUpperCase() }, `${marker.letter} is ${letter.toUpperCase()} now`)
        }
        className="w-9 text-center"
      />
      <TextEdit
        label={`Meaning of ${marker.letter}`}
        value={marker.meaning}
        onChange={(meaning) => patch({ meaning }, `${marker.letter} means ${meaning}`)}
        className="min-w-20 flex-1 max-md:min-w-36"
      />
      <select
        aria-label={`Colour of ${marker.letter}`}
        value={marker.colour}
        onChange={(event) => void patch({ colour: event.target.value }, `${marker.letter} is ${event.target.value}`)}
        className="rounded-sm border border-rule bg-sheet px-1 py-0.5 text-xs"
      >
        {COLOURS.map((colour) => (
          <option key={colour}>{colour}</option>
        ))}
      </select>
      <label className="flex items-center gap-1 text-xs">
        <input
          type="checkbox"
          checked={used}
          onChange={() =>
            void patch({ used: !used }, `${marker.letter} is ${used ? "not offered any more" : "in use"}`)
          }
        />
        in use
      </label>
      <span className="num w-8 text-right text-xs text-ink-2">{countText(count?.total)}</span>
      <button
        type="button"
        disabled={at === 0}
        className={SMALL}
        onClick={() => void patch({ position: at - 1 }, `${marker.letter} comes earlier`)}
      >
        up
      </button>
      <button
        type="button"
        disabled={last}
        className={SMALL}
        onClick={() => void patch({ position: at + 1 }, `${marker.letter} comes later`)}
      >
        down
      </button>
      <button
        type="button"
        className={SMALL}
        aria-label={`Remove the marker ${marker.letter}`}
        onClick={() => void ofMarkers.remove(marker, `Removed the marker ${marker.letter}`)}
      >
        remove
      </button>
    </li>
  );
}

/** Markers: one on a message at most. Their order is the one "next marker" goes through. */
export function Markers() {
  const markers = useView((v) => v.directory.markers);
  const [letter, setLetter] = useState("");
  const [meaning, setMeaning] = useState("");
  return (
    <section aria-labelledby="markers-title">
      <h2 id="markers-title" className="mb-1 text-[13px] font-bold">
        Markers
      </h2>
      <ul className="text-[13px]" aria-label="All markers">
        {markers.map((marker, at) => (
          <Line key={marker.id} marker={marker} at={at} last={at === markers.length - 1} />
        ))}
      </ul>
      {markers.length < MOST ? (
        <form
          onSubmit={async (event) => {
            event.preventDefault();
            const one = { letter: letter.trim().toUpperCase(), meaning: meaning.trim() };
            // At once: the next one may be typed before the answer comes. What is refused is to be mended.
            setLetter("");
            setMeaning("");
            if (await ofMarkers.make(one, `Made the marker ${one.letter}`)) return;
            setLetter((typed) => typed || letter);
            setMeaning((typed) => typed || meaning);
          }}
          className="mt-2 flex gap-2 text-[13px]"
        >
          <input
            aria-label="Letter of a new marker"
            value={letter}
            maxLength={2}
            placeholder="Letter"
            onChange={(event) => setLetter(event.target.value)}
            className="w-16 rounded-sm border border-edge bg-sheet px-2 py-1"
          />
          <input
            aria-label="Meaning of a new marker"
            value={meaning}
            placeholder="What it means"
            onChange={(event) => setMeaning(event.target.value)}
            className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1"
          />
          <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-paper">
            Make
          </button>
        </form>
      ) : (
        <p className="mt-2 text-[13px] text-ink-2">There are eight, which is all there can be.</p>
      )}
      <p className="mt-2 flex flex-wrap items-center gap-2 text-[13px] text-ink-2">
        Add a set:
        {MARKER_SETS.map((one) => (
          <button
            key={one.name}
            type="button"
            className={SMALL}
            title={one.markers.map(([l, , text]) => `${l} ${text}`).join(", ")}
            onClick={() => {
              // Letters that are there already keep their meaning.
              const added = one.markers
                .filter(([l]) => !markers.some((marker) => marker.letter === l))
                .map(([l, colour, text]) => ({ letter: l, colour, meaning: text }));
              if (added.length === 0) return notify(`All of ${one.name} are there already.`);
              void ofMarkers.makeAll(added, `Added the markers of ${one.name}`);
            }}
          >
            {one.name}
          </button>
        ))}
      </p>
    </section>
  );
}
