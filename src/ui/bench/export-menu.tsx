"use client";
import { DropdownMenu } from "radix-ui";
import { expressionOf } from "../state/browse";
import { exportAddress, fetchFile } from "../state/api";
import { targetIds } from "../state/select";
import { notify, useView, view } from "../state/store";
import { StillComing } from "../parts/still-coming";
import { countText, plural } from "../parts/words";

/** Has the browser save what is at an address, as a file of that name. The screen stays whatever comes of it. */
function saveFrom(address: string, name: string): void {
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  document.body.append(link);
  link.click();
  link.remove();
}

/** Saves what is selected, or else the whole list, as a file. */
async function save(format: "mbox" | "zip"): Promise<void> {
  const { selected, place, conditions } = view();
  const name = `tachyne.${format}`;
  if (selected === 0) return saveFrom(exportAddress({ narrow: expressionOf(place, conditions), format }), name);
  const many = plural(selected, "message");
  notify(`Exporting ${many}…`);
  try {
    // Too many ids for an address are sent as a form; what comes back is the browser's to hold, not the window's.
    const body = new URLSearchParams({ ids: targetIds().join(","), format });
    const file = URL.createObjectURL(await fetchFile(exportAddress({}), body));
    saveFrom(file, name);
    setTimeout(() => URL.revokeObjectURL(file), KEPT_MS);
    notify(`Exported ${many} as ${name}.`);
  } catch (error) {
    notify(`Not exported: ${error instanceof Error ? error.message : "try again"}`, "trouble");
  }
}

/** A browser begins to save in far less. */
const KEPT_MS = 60_000;

export function ExportMenu() {
  const ticked = useView((v) => v.selected);
  const what = ticked > 0 ? `${countText(ticked)} selected` : "the list";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="rounded-sm border border-rule bg-sheet px-2 py-1">export</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-30 rounded-md border border-rule bg-sheet p-1 text-[13px]"
        >
          {(["mbox", "zip"] as const).map((format) => (
            <DropdownMenu.Item
              key={format}
              onSelect={() => void save(format)}
              className="cursor-pointer rounded-sm px-3 py-1.5 outline-none data-highlighted:bg-spruce-soft"
            >
              {what} as {format === "mbox" ? "one mbox file" : "a zip of eml files"}
            </DropdownMenu.Item>
          ))}
          <StillComing what="a list with one of them is exported" />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
