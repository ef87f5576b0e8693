"use client";
import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { usePathname, useRouter } from "next/navigation";
import type { ReactNode } from "react";
import type { Folder } from "@/core/place";
import { writeEquals } from "@/core/narrow";
import { goToBatch, goToPlace } from "../state/browse";
import { troubles } from "../state/reads";
import { AWAITED, DEFERRED, MARKED, OWED, placeOf } from "../state/places";
import { set, useView } from "../state/store";
import { useCounts } from "../state/tally";
import { ThemeSwitch } from "./theme";
import { countText } from "../parts/words";
import { ByAccount } from "./by-account";
import { Place } from "./place";
import { Tree } from "./tree";
import { WalkPlace } from "./walk-place";

const STANDARD = ["drafts", "outbox", "sent", "archive", "aside", "junk", "trash"];

const SCREENS = [
  ["/tasks", "Tasks"],
  ["/agenda", "Agenda"],
  ["/senders", "Senders"],
  ["/pace", "Pace"],
  ["/rules", "Rules"],
  ["/templates", "Templates"],
  ["/contacts", "Contacts"],
  ["/ledger", "Ledger"],
  ["/workshop", "Workshop"],
  ["/accounts", "Accounts"],
  ["/places", "Places"],
  ["/import", "Import"],
  ["/you", "You"],
] as const;

function Section({ name, children }: { readonly name: string; readonly children: ReactNode }) {
  return (
    <>
      <h2 className="mx-3.5 mt-3 mb-1 text-[11px] font-semibold text-ink-3">{name}</h2>
      <ul aria-label={name}>{children}</ul>
    </>
  );
}

/** That a mail server cannot be asked is said quietly: what is here can be worked with all the same. */
function Trouble() {
  const { data } = useQuery(troubles);
  const some = data?.[0];
  if (!some) return null;
  return (
    <span title={some.said} className="rounded-sm bg-amber-soft px-1.5 text-xs leading-5 font-bold text-ink">
      <span aria-hidden>!</span>
      <span className="sr-only">trouble</span>
    </span>
  );
}

/** Places with their counts and ages. */
export function Rack() {
  const folders = useView((v) => v.directory.folders);
  const labels = useView((v) => v.directory.labels);
  const markers = useView((v) => v.directory.markers);
  const batches = useView((v) => v.home?.batches);
  const batch = useView((v) => v.batch);
  const passes = useView((v) => v.home?.passes);
  const walking = useView((v) => v.pass?.id ?? null);
  const counts = useCounts();
  const place = useView((v) => v.place);
  const open = useView((v) => v.rackOpen);
  const tasks = useView((v) => v.home?.tasks ?? 0);
  const path = usePathname();
  const router = useRouter();
  const here = (one: string) => path === "/" && walking === null && batch === null && place === one;
  const go = (one: string) => () => {
    goToPlace(one);
    set({ rackOpen: false });
    router.push("/");
  };
  const item = (folder: Folder, more: Partial<Parameters<typeof Place>[0]> = {}) => (
    <Place
      key={folder.id}
      name={folder.path}
      on={here(placeOf(folder))}
      count={counts.folder(folder.id)}
      onGo={go(placeOf(folder))}
      {...more}
    />
  );
  const standard = folders
    .filter((f) => f.role !== null && f.role !== "inbox")
    .sort((a, b) => STANDARD.indexOf(a.role!) - STANDARD.indexOf(b.role!));
  const marked = markers.filter((marker) => counts.marker(marker.id)?.total);
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
        id="places"
        tabIndex={-1}
        className={`flex w-52 shrink-0 md:isolate flex-col border-r border-rule bg-well text-[13px] max-md:fixed max-md:inset-y-0 max-md:left-0 max-md:z-40 max-md:w-60 print:hidden ${open ? "" : "max-md:hidden"}`}
      >
        <div className="flex items-center gap-2 px-3.5 pt-3.5 pb-3 text-base font-bold">
          <svg aria-hidden width="18" height="12" viewBox="0 0 18 12" className="fill-spruce">
            <path d="M1 0h3v12H1zM6 0h5v12H6zM13 0h4v12h-4z" />
          </svg>
          Tachyne
        </div>
        <div className="min-h-0 flex-1 overflow-y-auto pb-2">
          <ul aria-label="Mail">
            {folders
              .filter((f) => f.role === "inbox")
              .map((folder) => (
                <ByAccount key={folder.id} inbox={folder} here={here} go={go}>
                  {(more) => item(folder, { bar: true, ...more })}
                </ByAccount>
              ))}
            <Place
              name="Deferred"
              on={here(DEFERRED)}
              count={counts.folder(0)}
              onGo={go(DEFERRED)}
              title="Out of the inbox until their time"
            />
            <Place name="Owed" on={here(OWED)} count={counts.owed} onGo={go(OWED)} title="Still to be answered" />
            <Place
              name="Awaited"
              on={here(AWAITED)}
              count={counts.awaited}
              onGo={go(AWAITED)}
              title="Until an answer comes"
            />
          </ul>
          {passes && passes.length > 0 && (
            <Section name="Passes">
              {passes.map((one) => (
                <WalkPlace
                  key={one.id}
                  pass={one}
                  on={path === "/" && walking === one.id}
                  onGo={() => router.push("/")}
                />
              ))}
            </Section>
          )}
          {batches && batches.length > 0 && (
            <Section name="Batches">
              {batches.map((one) => (
                <Place
                  key={one.id}
                  name={one.name}
                  bar
                  on={path === "/" && walking === null && batch === one.id}
                  count={counts.batch(one.id)}
                  onGo={() => {
                    goToBatch(one.id);
                    set({ rackOpen: false });
                    router.push("/");
                  }}
                />
              ))}
            </Section>
          )}
          <Section name="Folders">
            <Tree
              kind="folders"
              things={folders.filter((f) => f.role === null)}
              pathOf={(folder) => folder.path}
              item={item}
            />
            {standard.map((folder) => item(folder))}
          </Section>
          {labels.length > 0 && (
            <Section name="Labels">
              <Tree
                kind="labels"
                things={labels}
                pathOf={(label) => label.name}
                item={(label, branch) => (
                  <Place
                    {...branch}
                    colour={label.colour}
                    on={here(writeEquals("label", label.name))}
                    count={counts.label(label.id)}
                    onGo={go(writeEquals("label", label.name))}
                  />
                )}
              />
            </Section>
          )}
          {marked.length > 0 && (
            <Section name="Markers">
              <Place name="Any marker" on={here(MARKED)} count={counts.marked} onGo={go(MARKED)} />
              {marked.map((marker) => (
                <Place
                  key={marker.id}
                  name={`${marker.letter} ${marker.meaning}`}
                  colour={marker.colour}
                  on={here(writeEquals("marker", marker.letter))}
                  count={counts.marker(marker.id)}
                  onGo={go(writeEquals("marker", marker.letter))}
                />
              ))}
            </Section>
          )}
        </div>
        <div className="grid grid-cols-2 gap-x-1 gap-y-0.5 border-t border-rule px-2 py-2">
          {SCREENS.map(([href, name]) => (
            <Link
              key={href}
              href={href}
              // They would be fetched in the very moment in which mail is.
              prefetch={false}
              onClick={() => set({ ledgerMessage: null, rackOpen: false })}
              aria-current={path === href ? "page" : undefined}
              className={`flex justify-between rounded-sm px-1.5 py-1 ${path === href ? "bg-sheet font-bold" : "hover:bg-paper"}`}
            >
              {name}
              {href === "/accounts" && <Trouble />}
              {href === "/tasks" && <span className="num text-xs font-normal text-ink-2">{countText(tasks)}</span>}
            </Link>
          ))}
          <ThemeSwitch />
        </div>
      </nav>
    </>
  );
}
