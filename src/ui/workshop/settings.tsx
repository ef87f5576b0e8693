"use client";
import type { MacroShape } from "@/core/api";
import { CONFIRM_ABOVE, type Finding } from "@/core/macro";
import { changeSettings } from "./edit";
import { FindingLine } from "./finding";
import { FIELD } from "./name-field";
import { TextField } from "./text-field";

const LABEL = "pt-1.5 text-xs text-ink-2";

const wholeOf = (value: string): MacroShape["settings"]["whole"] =>
  value === "thread" || value === "thread everywhere" ? value : undefined;

/** How a macro is run: which messages it is for, when it asks, where the focus goes. */
export function MacroSettings({
  macro,
  findings,
}: {
  readonly macro: MacroShape;
  readonly findings: readonly Finding[];
}) {
  const { settings } = macro;
  const put = (change: Parameters<typeof changeSettings>[1], name: string) => void changeSettings(macro, change, name);
  const { confirm } = settings;
  const asks = confirm === undefined ? "usual" : typeof confirm === "number" ? "above" : confirm;
  return (
    <details className="mt-3" open={Object.keys(settings).length > 0 || findings.length > 0}>
      <summary className="cursor-pointer text-[13px] font-semibold text-ink-2">Settings</summary>
      <div className="mt-2 grid grid-cols-[92px_minmax(0,1fr)] items-start gap-x-2 gap-y-1.5 text-[13px]">
        <span className={LABEL}>which messages</span>
        <TextField
          key={settings.for ?? ""}
          label="which messages it is for"
          kind="narrow"
          value={settings.for ?? ""}
          placeholder="all; or a narrowing, as unread & from~warden"
          onChange={(text) => put({ for: text === "" ? undefined : text }, "Changed which messages it is for")}
        />
        <span className={LABEL}>acts on</span>
        <select
          aria-label="acts on"
          value={settings.whole ?? "message"}
          onChange={(event) => put({ whole: wholeOf(event.target.value) }, "Changed what it acts on")}
          className={FIELD}
        >
          <option value="message">the messages</option>
          <option value="thread">their threads, in the same place</option>
          <option value="thread everywhere">their threads everywhere, own mail and junk too</option>
        </select>
        <span className={LABEL}>asks first</span>
        <span className="flex gap-1.5">
          <select
            aria-label="asks first"
            value={asks}
            onChange={(event) => {
              const to = event.target.value;
              const next = to === "usual" ? undefined : to === "above" ? 50 : (to as "never" | "always");
              put({ confirm: next }, "Changed when it asks");
            }}
            className={`${FIELD} flex-1`}
          >
            <option value="usual">above {CONFIRM_ABOVE} messages</option>
            <option value="above">above so many messages</option>
            <option value="never">never</option>
            <option value="always">always</option>
          </select>
          {typeof confirm === "number" && (
            <input
              key={confirm}
              type="number"
              min={1}
              aria-label="asks above so many"
              defaultValue={confirm}
              onBlur={(event) => {
                const above = Math.round(Number(event.target.value));
                if (above >= 1 && above <= 1_000_000 && above !== confirm)
                  put({ confirm: above }, "Changed when it asks");
              }}
              className={`${FIELD} w-24`}
            />
          )}
        </span>
        <span className={LABEL}>focus then</span>
        <select
          aria-label="focus then"
          value={settings.focus ?? "next"}
          onChange={(event) =>
            put(
              {
                focus: event.target.value === "next" ? undefined : (event.target.value as "previous" | "stay" | "back"),
              },
              "Changed where the focus goes",
            )
          }
          className={FIELD}
        >
          <option value="next">to the next message</option>
          <option value="previous">to the previous message</option>
          <option value="stay">stays</option>
          <option value="back">back to the list</option>
        </select>
        <span className={LABEL}>held key</span>
        <label className="flex items-center gap-1.5 pt-1">
          <input
            type="checkbox"
            checked={settings.held === true}
            onChange={(event) => put({ held: event.target.checked ? true : undefined }, "Changed what a held key does")}
          />
          goes on while its key is held
        </label>
        <span className={LABEL}>unattended</span>
        <label className="flex items-center gap-1.5 pt-1">
          <input
            type="checkbox"
            checked={settings.unattended === true}
            onChange={(event) =>
              put({ unattended: event.target.checked ? true : undefined }, "Changed whether it runs unattended")
            }
          />
          may run with nobody there
        </label>
      </div>
      {findings.map((finding) => (
        <FindingLine key={finding.text} macro={macro} finding={finding} />
      ))}
    </details>
  );
}
