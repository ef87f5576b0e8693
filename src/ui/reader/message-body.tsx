"use client";
import Link from "next/link";
import { useQuery } from "@tanstack/react-query";
import type { Message } from "@/core/api";
import { dateText, sizeText } from "../parts/words";
import { fileAddress, rawAddress } from "../state/api";
import { source } from "../state/reads";
import { HtmlView } from "./html-view";
import { PlainText } from "./plain-text";
import type { Shown } from "./show-as";

/** Characters of a source; the rest is for a file. */
const MOST_SHOWN = 500_000;

function Source({ id }: { readonly id: number }) {
  const { data, error } = useQuery(source(id, MOST_SHOWN));
  if (error) return <p className="mt-3">The source cannot be read now. {error.message}</p>;
  return (
    <>
      <a href={rawAddress(id)} className="mt-2 inline-block underline" download>
        Save the source
      </a>
      <pre className="mt-2 font-mono text-xs break-all whitespace-pre-wrap">{data ?? ""}</pre>
    </>
  );
}

interface BodyProps {
  /** null while it is being read. */
  readonly message: Message | null;
  readonly shown: Shown;
  /** What is marked in it, folded. */
  readonly sought: readonly string[];
  readonly textPx: number;
}

/** What stands for a text that there is not. */
const NO_TEXT = { here: "(empty)", coming: "(its text is on its way)", lost: "(its text never came)" } as const;

/** What a message says, the way it is looked at. */
function Words({ message, shown, sought, textPx }: BodyProps & { readonly message: Message }) {
  if (shown === "source") return <Source id={message.id} />;
  if (shown === "headers")
    return (
      <dl className="mt-3 grid grid-cols-[minmax(90px,auto)_1fr] gap-x-3 gap-y-1 font-mono text-xs">
        {message.headers.map((header, i) => (
          <div key={i} className="contents">
            <dt className="text-ink-3">{header.name}</dt>
            <dd className="break-all">{header.value}</dd>
          </div>
        ))}
      </dl>
    );
  return (
    <PlainText
      sought={sought}
      textPx={textPx}
      text={message.text ?? (message.html ? "This message has no plain text of its own." : NO_TEXT[message.source])}
    />
  );
}

export function Body({ message, shown, sought, textPx }: BodyProps) {
  const isPage = message !== null && shown === "message" && Boolean(message.html);
  return (
    <>
      {message !== null && !isPage && <Words message={message} shown={shown} sought={sought} textPx={textPx} />}
      <HtmlView message={isPage ? message : null} sought={sought} textPx={textPx} />
    </>
  );
}

export function Files({ message }: { readonly message: Message }) {
  const files = message.files.filter((file) => !file.inline || !file.contentId);
  if (files.length === 0) return null;
  return (
    <ul className="mt-3 flex flex-wrap gap-1.5" aria-label="Attachments">
      {files.map((file) => (
        <li key={file.index}>
          <a
            href={fileAddress(message.id, file.index)}
            download={file.name}
            className="inline-flex gap-2 rounded-sm border border-rule bg-sheet px-2 py-1 text-[12.5px]"
          >
            {file.name} <span className="num text-ink-3">{sizeText(file.size)}</span>
          </a>
        </li>
      ))}
    </ul>
  );
}

/** Tasks made from the message; they lead to the task list, which leads back. */
export function Tasks({ message, zone }: { readonly message: Message; readonly zone: string }) {
  if (message.tasks.length === 0) return null;
  return (
    <ul className="mt-3 border-t border-rule pt-2 text-[13px]" aria-label="Tasks">
      {message.tasks.map((task) => (
        <li key={task.id}>
          <Link href="/tasks" className={`underline ${task.done ? "line-through" : ""}`}>
            task: {task.title}
          </Link>
          {task.due && <span className="text-ink-2"> due {dateText(task.due, zone, new Date())}</span>}
        </li>
      ))}
    </ul>
  );
}
