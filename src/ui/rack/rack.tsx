"use client";
import Link from "next/link";
import { usePathname, useRouter } from "next/navigation";
import { useMemo } from "react";
import type { Folder } from "@/core/place";
import { useNow } from "../parts/now";
import { goToPlace } from "../state/browse";
import { DEFERRED, placeOf } from "../state/places";
import { mailbox, set, useView } from "../state/store";
import { ThemeSwitch } from "./theme";
import { countText } from "../parts/words";

interface Count {
  readonly total: number;
  readonly old: number;
}

/** Folders people file into first, then the ones every mailbox has. */
function inGroups(folders: readonly Folder[]): { inbox: Folder[]; own: Folder[]; standard: Folder[] } {
  const order = ["sent", "drafts", "archive", "junk", "trash"];
  return {
    inbox: folders.filter((f) => f.role === "inbox"),
    own: folders.filter((f) => f.role === null),
    standard: folders
      .filter((f) => f.role !== null && f.role !== "inbox")
      .sort((a, b) => order.indexOf(a.role!) - order.indexOf(b.role!)),
  };
}

const SCREENS = [
  ["/tasks", "Tasks"],
  ["/ledger", "Ledger"],
  ["/workshop", "Workshop"],
  ["/import", "Import"],
] as const;

interface PlaceProps {
  readonly folder: Pick<Folder, "path" | "role">;
  /** What it shows, where that is no folder's. */
  readonly place?: string;
  readonly count: Count;
  readonly on: boolean;
  readonly bar: boolean;
}

function Place({ folder, place, count, on, bar }: PlaceProps) {
  const router = useRouter();
  const depth = folder.path.split("/").length - 1;
  const share = count.total === 0 ? 0 : Math.round((100 * count.old) / count.total);
  return (
    <li>
      <button
        type="button"
        aria-current={on ? "page" : undefined}
        onClick={() => {
          goToPlace(place ?? placeOf(folder));
          router.push("/");
        }}
        style={{ paddingLeft: 14 + depth * 10 }}
        className={`grid w-full grid-cols-[1fr_auto] items-center py-[3px] pr-3.5 text-left ${on ? "bg-sheet font-bold" : "font-medium hover:bg-paper"}`}
        title={bar ? `${share} % older than a week` : folder.path}
      >
        <span className="truncate">{folder.path.split("/").at(-1)}</span>
        <span className="num text-xs font-normal text-ink-2">{countText(count.total)}</span>
        {bar && (
          <span aria-hidden className="col-span-2 mt-0.5 h-[3px] bg-rule">
            <span className="block h-[3px] bg-amber" style={{ width: `${share}%` }} />
          </span>
        )}
      </button>
    </li>
  );
}

/** Places with their counts and ages. */
export function Rack() {
  const folders = useView((v) => v.directory.folders);
  const version = useView((v) => v.version);
  const place = useView((v) => v.place);
  const open = useView((v) => v.rackOpen);
  const path = usePathname();
  const nowMs = useNow(60_000);
  const tasks = useView((v) => v.home?.tasks ?? 0);
  const groups = inGroups(folders);
  const inbox = useView((v): number => v.directory.folders.find((folder) => folder.role === "inbox")?.id ?? 0);
  // The mailbox is no state of React's: its version says when it changed.
  const counts = useMemo(
    () => (version >= 0 ? mailbox.counts(nowMs, inbox) : new Map<number, Count>()),
    [version, nowMs, inbox],
  );
  const item = (folder: Folder, bar: boolean) => (
    <Place
      key={folder.id}
      folder={folder}
      bar={bar}
      on={path === "/" && place === placeOf(folder)}
      count={counts.get(folder.id) ?? { total: 0, old: 0 }}
    />
  );
  return (
    <>
      {open && (
        <button
          type="button"
          aria-label="Close places"
          className="fixed inset-0 z-30 bg-ink/40 md:hidden"
          onClick={() => set({ rackOpen: false })}
        />
      )}
      <nav
        aria-label="Places"
        className={`flex w-44 shrink-0 flex-col overflow-y-auto border-r border-rule bg-well text-[13px] max-md:fixed max-md:inset-y-0 max-md:left-0 max-md:z-40 max-md:w-60 ${open ? "" : "max-md:hidden"}`}
      >
        <div className="flex items-center gap-2 px-3.5 pt-3.5 pb-3 text-base font-bold">
          <svg aria-hidden width="18" height="12" viewBox="0 0 18 12" className="fill-spruce">
            <path d="M1 0h3v12H1zM6 0h5v12H6zM13 0h4v12h-4z" />
          </svg>
          Tachyne
        </div>
        <ul>
          {groups.inbox.map((folder) => item(folder, true))}
          <Place
            folder={{ path: "Deferred", role: null }}
            place={DEFERRED}
            bar={false}
            on={path === "/" && place === DEFERRED}
            count={counts.get(0) ?? { total: 0, old: 0 }}
          />
        </ul>
        {groups.own.length > 0 && <h2 className="mx-3.5 mt-3 mb-1 text-[11px] font-semibold text-ink-3">Folders</h2>}
        <ul>{groups.own.map((folder) => item(folder, false))}</ul>
        <ul className="mt-3">{groups.standard.map((folder) => item(folder, false))}</ul>
        <div className="mt-auto flex flex-col gap-0.5 px-2 py-3">
          {SCREENS.map(([href, name]) => (
            <Link
              key={href}
              href={href}
              onClick={() => set({ ledgerMessage: null })}
              aria-current={path === href ? "page" : undefined}
              className={`flex justify-between rounded-sm px-1.5 py-1 ${path === href ? "bg-sheet font-bold" : "hover:bg-paper"}`}
            >
              {name}
              {href === "/tasks" && <span className="num text-xs font-normal text-ink-2">{countText(tasks)}</span>}
            </Link>
          ))}
          <ThemeSwitch />
        </div>
      </nav>
    </>
  );
}
