"use client";
import { DropdownMenu } from "radix-ui";
import { expressionOf } from "../state/browse";
import { exportAddress } from "../state/api";
import { targetIds } from "../state/select";
import { useView, view } from "../state/store";
import { countText } from "../parts/words";

/** Saves what is selected, or else the whole list, as a file. A form, so that a long selection fits. */
function save(format: "mbox" | "zip"): void {
  const { selected, place, conditions } = view();
  const form = document.createElement("form");
  form.style.display = "none";
  if (selected > 0) {
    form.method = "post";
    form.action = exportAddress({});
    form.enctype = "multipart/form-data";
    form.append(field("ids", targetIds().join(",")), field("format", format));
  } else {
    form.action = exportAddress({});
    form.append(field("narrow", expressionOf(place, conditions)), field("format", format));
  }
  document.body.append(form);
  form.submit();
  form.remove();
}

function field(name: string, value: string): HTMLInputElement {
  const input = document.createElement("input");
  input.name = name;
  input.value = value;
  return input;
}

export function ExportMenu() {
  const ticked = useView((v) => v.selected);
  const what = ticked > 0 ? `${countText(ticked)} selected` : "the list";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="rounded-sm border border-rule bg-sheet px-2 py-1 max-md:hidden">
        export
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-30 rounded-md border border-rule bg-sheet p-1 text-[13px]"
        >
          {(["mbox", "zip"] as const).map((format) => (
            <DropdownMenu.Item
              key={format}
              onSelect={() => save(format)}
              className="cursor-pointer rounded-sm px-3 py-1.5 outline-none data-highlighted:bg-spruce-soft"
            >
              {what} as {format === "mbox" ? "one mbox file" : "a zip of eml files"}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
