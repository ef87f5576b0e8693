"use client";
import type { MacroShape } from "@/core/api";
import { COLOURS } from "@/core/place";
import { TONE } from "../parts/tone";
import { changeMacro } from "./edit";
import { goOn } from "./go-on";

/** A macro's name and colour. */
export function MacroHead({ macro }: { readonly macro: MacroShape }) {
  return (
    <div className="mb-2.5 flex flex-wrap items-center gap-3">
      <input
        key={`${macro.id} ${macro.name}`}
        aria-label="Name of the macro"
        defaultValue={macro.name}
        maxLength={80}
        data-field
        onBlur={(event) => {
          const name = event.target.value.trim();
          if (name === "") event.target.value = macro.name;
          else if (name !== macro.name) void changeMacro(macro, { name }, `Renamed to ${name}`);
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          // Or the same stroke would press the button it leads to.
          event.preventDefault();
          goOn(event.currentTarget);
        }}
        className="min-w-40 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1 text-[15px] font-semibold"
      />
      <div role="radiogroup" aria-label="Colour" className="flex gap-1">
        {COLOURS.map((colour) => (
          <button
            key={colour}
            type="button"
            role="radio"
            aria-checked={macro.colour === colour}
            aria-label={colour}
            title={colour}
            onClick={() => void changeMacro(macro, { colour }, `Coloured ${macro.name}`)}
            className={`h-6 w-6 rounded-sm ${TONE[colour]} ${macro.colour === colour ? "outline-2 outline-offset-1 outline-ink" : ""}`}
          />
        ))}
      </div>
    </div>
  );
}
