"use client";
import { useState, type ReactNode } from "react";
import type { Message } from "@/core/api";
import { dateText } from "../parts/words";
import { textPx } from "../state/look";
import { useView } from "../state/store";
import { Body, Files } from "./message-body";
import { ShowAs, type Shown } from "./show-as";

const people = (list: Message["to"]) => list.map((p) => p.name || p.address).join(", ");

interface Props {
  readonly message: Message;
  /** What is looked for in it, folded. */
  readonly sought: readonly string[];
  /** Beside the ways to look at it. */
  readonly children?: ReactNode;
}

/** A message that has been read, apart from any list: people, date, words and files. */
export function MessageView({ message, sought, children }: Props) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const sizePx = useView((v) => textPx(v.textSize));
  const [shown, setShown] = useState<Shown>("message");
  return (
    <>
      <h1 className="mb-2 text-[19px] leading-tight font-semibold text-balance">{message.subject || "(no subject)"}</h1>
      <div className="border-b border-rule pb-2.5 text-[13px] text-ink-2">
        <div className="flex flex-wrap justify-between gap-x-4">
          <span>
            <b className="text-ink">{message.from.name || message.from.address || "No sender"}</b>{" "}
            {message.from.name && message.from.address}
          </span>
          <span className="num">{dateText(message.date, zone, new Date())}</span>
        </div>
        <div className="mt-0.5">
          to {people(message.to) || "nobody named"}
          {message.cc.length > 0 && `, copied to ${people(message.cc)}`}
        </div>
      </div>
      <ShowAs shown={shown} onShow={setShown}>
        {children}
      </ShowAs>
      <Body message={message} shown={shown} sought={sought} textPx={sizePx} />
      <Files message={message} />
    </>
  );
}
