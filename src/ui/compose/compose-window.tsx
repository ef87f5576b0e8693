"use client";
import { useEffect, useRef, useState } from "react";
import { docOfText, readCorrespondents } from "@/core/letter";
import { percentDecoded } from "@/core/text";
import { Notice } from "../parts/notice";
import { composeNew } from "../state/compose";
import { useView } from "../state/store";
import { Composer } from "./composer";

/** Fields as an address brings them (RFC 6068 for mailto:), each as it may stand in a letter. */
function fieldsIn(search: string) {
  const query = new URLSearchParams(search);
  const link = query.get("mailto");
  const mailto = link === null ? null : new URL(link.startsWith("mailto:") ? link : `mailto:${link}`);
  const field = (name: string): string => {
    const [own, linked] = [query.get(name), mailto?.searchParams.get(name)];
    return own ?? linked ?? "";
  };
  const to = [mailto ? percentDecoded(mailto.pathname) : "", field("to")].filter(Boolean).join(",");
  const text = field("body");
  return {
    to: readCorrespondents(to),
    cc: readCorrespondents(field("cc")),
    bcc: readCorrespondents(field("bcc")),
    subject: field("subject").slice(0, 2000),
    ...(text === "" ? {} : { body: docOfText(text.slice(0, 100_000)) }),
  };
}

/** A letter in a window of its own, begun from an address: /compose?to=&cc=&bcc=&subject=&body= */
export function ComposeWindow() {
  const composing = useView((v) => v.composing);
  const [over, setOver] = useState(false);
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    void composeNew(fieldsIn(location.search));
  }, []);
  return (
    <main id="main" className="flex h-full min-h-0 flex-col">
      <Notice testId="notice" className="px-3.5 text-[13px]" />
      {composing && !over ? (
        <div className="min-h-0 flex-1">
          <Composer key={composing.key} composing={composing} onClose={() => setOver(true)} />
        </div>
      ) : (
        <p role="status" className="p-6 text-ink-2">
          {over ? "The letter is on its way, or kept in Drafts. This window can be closed." : "Beginning the letter…"}
        </p>
      )}
    </main>
  );
}
