"use client";
import { useRouter } from "next/navigation";
import { stepsText } from "@/core/macro";
import { plural } from "../parts/words";
import { dropRecording, stopRecording } from "../state/record";
import { notify, set, useView } from "../state/store";
import { createRecorded } from "../workshop/edit";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px]";

/** While a recording runs: what it holds so far, and how it ends. */
export function RecordingBar() {
  const router = useRouter();
  const recording = useView((v) => v.recording);
  if (!recording) return null;
  const stop = async () => {
    const recorded = stopRecording();
    if (!recorded) return notify("Nothing was recorded: no macro was run, or all of it was taken back.");
    const id = await createRecorded(recorded.steps);
    if (id === null) return;
    set({ openMacro: id });
    router.push("/workshop");
    const { length } = recorded.choices;
    if (length > 0) notify(`Recorded. ${plural(length, "value")} stays as chosen; each step can ask instead.`);
  };
  return (
    <div
      role="status"
      className="flex items-center gap-3 border-b border-rule bg-plum-soft px-3.5 py-1.5 text-[13px] text-ink"
    >
      <b>Recording</b>
      <span className="min-w-0 flex-1 truncate">
        {recording.length === 0
          ? "do it by hand: each key you press is a step"
          : recording.map((done) => stepsText(done.steps)).join(" · ")}
      </span>
      <button type="button" className={BUTTON} onClick={() => void stop()}>
        Stop and make a macro
      </button>
      <button type="button" className={BUTTON} onClick={dropRecording}>
        Drop it
      </button>
    </div>
  );
}
