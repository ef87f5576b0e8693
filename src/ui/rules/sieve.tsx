import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { SieveIn } from "./sieve-in";
import { SieveOut } from "./sieve-out";

const ITEM = "cursor-pointer rounded-sm px-3 py-1.5 outline-none data-highlighted:bg-spruce-soft";

/** Rules as a script for a mail server, and a server's script as rules. */
export function SieveMenu() {
  const [open, setOpen] = useState<"in" | "out" | null>(null);
  const close = () => setOpen(null);
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="rounded-sm border border-rule bg-sheet px-2 py-0.5 text-[13px]">
          Sieve…
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className="z-50 rounded-md border-2 border-ink bg-sheet p-1 text-[13px]">
            <DropdownMenu.Item className={ITEM} onSelect={() => setOpen("out")}>
              These rules as a script
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => setOpen("in")}>
              Take a script in
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {open === "in" && <SieveIn onClose={close} />}
      {open === "out" && <SieveOut onClose={close} />}
    </>
  );
}
