"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { JobShape } from "@/core/api";
import { useScreenKeys } from "../parts/screen-keys";
import { StillComing } from "../parts/still-coming";
import { countText, plural, sizeText } from "../parts/words";
import { EVERYTHING } from "../state/api";
import { jobs as jobsRead, rules } from "../state/reads";
import { useView } from "../state/store";
import { sendMail } from "../state/uploads";

const STATE_TEXT: Record<JobShape["state"], string> = {
  receiving: "being sent",
  queued: "waiting its turn",
  running: "coming in",
  done: "done",
  failed: "given up",
};

function Job({ job }: { readonly job: JobShape }) {
  const share = job.total > 0 ? Math.floor((100 * job.done) / job.total) : 0;
  return (
    <li className="border-b border-rule py-2.5" data-job={job.name} data-state={job.state}>
      <div className="flex flex-wrap justify-between gap-x-4 text-[13.5px]">
        <b className="font-semibold">{job.name}</b>
        <span className="text-ink-2">
          {STATE_TEXT[job.state]}
          {job.state === "running" && `, ${share} % of ${sizeText(job.total)}`}
        </span>
      </div>
      {job.state === "running" && (
        <progress aria-label={`${job.name}, per cent`} max={100} value={share} className="mt-1 h-1.5 w-full" />
      )}
      <p className="text-[13px] text-ink-2">
        {countText(job.added)} added
        {job.doubles > 0 && `, ${countText(job.doubles)} ${job.doubles === 1 ? "was" : "were"} here already`}
        {job.problems.length > 0 && `, ${countText(job.problems.length)} could not come in`}
      </p>
      {job.error && (
        <p role="alert" className="text-[13px] text-brick">
          {job.error} Nothing that came in is lost; choose the file again to go on.
        </p>
      )}
      {job.problems.length > 0 && (
        <details className="text-[13px]">
          <summary>What could not come in</summary>
          <ul className="mt-1 max-h-48 overflow-y-auto">
            {job.problems.map((problem, i) => (
              <li key={i}>
                <span className="num text-ink-3">byte {countText(problem.offset)}</span> {problem.reason}
              </li>
            ))}
          </ul>
        </details>
      )}
    </li>
  );
}

/** Bringing mail in: a file and a folder, and how far each import is. */
export function Importing() {
  const folders = useView((v) => v.directory.folders);
  const [folder, setFolder] = useState("Inbox");
  const [byRules, setByRules] = useState(false);
  const hasRules = (useQuery(rules).data ?? []).some(({ on }) => on);
  const jobs = useQuery(jobsRead).data ?? [];
  const sending = useView((v) => v.uploading);
  const troubles = useView((v) => v.uploadTroubles);
  useScreenKeys();

  return (
    <main id="main" className="h-full overflow-y-auto" data-ready>
      <header className="flex h-[46px] items-center border-b border-rule px-[18px]">
        <h1 className="text-[15px] font-bold">Import</h1>
      </header>
      <div className="max-w-2xl px-[18px] py-4">
        <p className="text-ink-2">
          Mail comes in from mbox and eml files, from a zip or tar of them or of a Maildir with its folders, and from
          what “everything” below has made. The same file twice makes no doubles, and an import that was cut off goes on
          by itself.
        </p>
        <div className="mt-4 flex flex-wrap items-end gap-4">
          <label className="flex flex-col gap-1 text-[13px]">
            Into the folder
            <input
              list="folders"
              value={folder}
              onChange={(event) => setFolder(event.target.value)}
              className="w-60 rounded-sm border border-edge bg-sheet px-2 py-1.5"
            />
            <datalist id="folders">
              {folders.map((f) => (
                <option key={f.id} value={f.path} />
              ))}
            </datalist>
          </label>
          {hasRules && (
            <label className="order-last flex w-full items-center gap-2 text-[13px]">
              <input type="checkbox" checked={byRules} onChange={({ target }) => setByRules(target.checked)} />
              Rules look at what comes into the inbox
            </label>
          )}
          <label className="flex flex-col gap-1 text-[13px]">
            File
            <input
              type="file"
              multiple
              accept=".mbox,.eml,.mbx,.zip,.tar,.tgz,.gz,application/mbox,message/rfc822,*/*"
              onChange={({ target }) => {
                sendMail([...(target.files ?? [])], { folder: folder.trim() || "Inbox", rules: byRules });
                target.value = "";
              }}
              className="rounded-sm border border-edge bg-sheet px-2 py-1.5"
            />
          </label>
        </div>
        {sending && (
          <p role="status" className="mt-3 text-[13px]">
            Sending {sending.name}, {Math.floor(100 * sending.share)} %
            {sending.waiting > 0 && `, ${plural(sending.waiting, "file")} behind it`}. It goes on while you look at
            something else; closing the window would cut it off.
          </p>
        )}
        {troubles.length > 0 && (
          <ul role="alert" className="mt-3 rounded-md bg-brick-soft px-3 py-2 text-[13px]">
            {troubles.map((trouble, i) => (
              <li key={i}>{trouble}</li>
            ))}
          </ul>
        )}
        <h2 className="mt-6 text-[13px] font-semibold text-ink-2">Take it with you</h2>
        <p className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-2 text-ink-2">
          <a
            href={EVERYTHING}
            download
            className="rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px] text-ink"
          >
            Export everything
          </a>
          <span className="min-w-0 flex-1 basis-64">
            A zip with the mail of each folder as mbox, and labels, markers, flags, notes, dates, tasks and contacts
            beside it. Chosen above, here or elsewhere, it brings all of them back.
          </span>
        </p>
        <StillComing what="everything is exported" />
        <h2 className="mt-6 text-[13px] font-semibold text-ink-2">Imports</h2>
        {jobs.length === 0 ? <p className="mt-1 text-[13px] text-ink-2">None yet.</p> : null}
        <ul>
          {jobs.map((job) => (
            <Job key={job.id} job={job} />
          ))}
        </ul>
      </div>
    </main>
  );
}
