"use client";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";
import { LOCAL_ACCOUNT, writeEquals } from "@/core/narrow";
import { accountName, type Folder } from "@/core/place";
import { placeOf } from "../state/places";
import { identities } from "../state/reads";
import { useView } from "../state/store";
import { countPlaces, useCounts } from "../state/tally";
import { Place } from "./place";

const NOBODY: readonly never[] = [];
const KEY = "tachyne-inbox-by-account";

interface Props {
  readonly inbox: Folder;
  readonly here: (place: string) => boolean;
  readonly go: (place: string) => () => void;
  /** The inbox itself; with what unfolds it where mail comes through several accounts. */
  readonly children: (unfold: { readonly open?: boolean; readonly onToggle?: () => void }) => ReactNode;
}

/** The inbox, and below it when asked for what of it came through which account, and to which of one's addresses. */
export function ByAccount({ inbox, here, go, children }: Props) {
  const accounts = useView((v) => v.directory.accounts) ?? [];
  const counts = useCounts();
  const { data: own = NOBODY } = useQuery(identities);
  const [open, setOpen] = useState(() => typeof localStorage !== "undefined" && localStorage.getItem(KEY) === "yes");
  const local = { id: 0, name: LOCAL_ACCOUNT, address: "" };
  const shown = [...accounts, ...(counts.account(0)?.total ? [local] : [])];
  const addresses = own.length < 2 ? [] : own.map(({ address }) => address.toLowerCase());
  const through = shown.length < 2 ? [] : shown;
  const places = addresses.map((address) => ({
    address,
    place: `${placeOf(inbox)} & ${writeEquals("via", address)}`,
  }));
  const counted = open ? places.map(({ place }) => place).join("\n") : "";
  useEffect(() => countPlaces(counted === "" ? [] : counted.split("\n")), [counted]);
  if (through.length + addresses.length === 0) return children({});
  const toggle = () => {
    localStorage.setItem(KEY, open ? "no" : "yes");
    setOpen(!open);
  };
  return (
    <>
      {children({ open, onToggle: toggle })}
      {open &&
        through.map((account) => {
          const name = accountName(account);
          const place = `${placeOf(inbox)} & ${writeEquals("account", name)}`;
          return (
            <Place
              key={account.id}
              name={name}
              title={`${inbox.path} of ${name}`}
              depth={1}
              count={counts.account(account.id)}
              on={here(place)}
              onGo={go(place)}
            />
          );
        })}
      {open &&
        places.map(({ address, place }) => (
          <Place
            key={address}
            name={address}
            title={`${inbox.path} to ${address}`}
            depth={1}
            count={counts.place(place)}
            on={here(place)}
            onGo={go(place)}
          />
        ))}
    </>
  );
}
