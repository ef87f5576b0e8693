"use client";
import type { MacroShape } from "@/core/api";
import { COLOURS } from "@/core/place";
import { TextEdit } from "../parts/text-edit";
import { TONE } from "../parts/tone";
import { changeMacro } from "./edit";
import { goOn } from "./go-on";

/** A macro's name and colour. */
export function MacroHead({ macro }: { readonly macro: MacroShape }) {
  return (
    <div className="mb-2.5 flex flex-wrap items-center gap-3">
      <TextEdit
        key={macro.id}
        label="Name of the macro"
        value={macro.name}
        onChange={(name) => changeMacro(macro, { name }, `Renamed to ${name}`)}
        framed
        goesOn={goOn}
        maxLength={80}
        className="min-w-40 flex-1 text-[15px] font-semibold"
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
