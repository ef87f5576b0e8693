"use client";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { chordName, FRAME_ACTIONS, FRAME_KEYS, padKeys, readSequence } from "@/core/keys";
import { stepsText } from "@/core/macro";
import { writeEquals } from "@/core/narrow";
import { findNames } from "@/core/place";
import { useKeyLabels } from "../input/layout";
import { Modal, Picker } from "../parts/picker";
import { goToBatch, goToPlace } from "../state/browse";
import { DEFERRED, MARKED, placeOf } from "../state/places";
import { runMacro } from "../state/run";
import { set, useView } from "../state/store";
import { AsideList } from "../aside/aside-list";
import { Confirm } from "../foresight/confirm";
import { BatchDialog } from "../batches/batch-dialog";
import { Arrange, SelectByChoice } from "./arrange";
import { Ask } from "./ask";
import { Form } from "./form";
import { Why } from "./why";
import { showPressed } from "./commands";

const close = () => set({ dialog: null });

const SCREENS = [
  ["/", "Bench"],
  ["/tasks", "Tasks"],
  ["/ledger", "Ledger"],
  ["/workshop", "Workshop"],
  ["/places", "Places: folders, labels, markers"],
  ["/import", "Import"],
] as const;

function GoTo() {
  const router = useRouter();
  const folders = useView((v) => v.directory.folders);
  const labels = useView((v) => v.directory.labels);
  const batches = useView((v) => v.home?.batches);
  const markers = useView((v) => v.directory.markers);
  const choices = [
    ...(batches ?? []).map((batch) => ({ id: `batch ${batch.id}`, name: batch.name, detail: "batch" })),
    ...folders.map((folder) => ({
      id: `place ${placeOf(folder)}`,
      name: folder.path,
      detail: "folder",
    })),
    ...labels.map((label) => ({ id: `place ${writeEquals("label", label.name)}`, name: label.name, detail: "label" })),
    ...markers.map((marker) => ({
      id: `place ${writeEquals("marker", marker.letter)}`,
      name: `${marker.letter} ${marker.meaning}`,
      detail: "marker",
    })),
    { id: `place ${DEFERRED}`, name: "Deferred", detail: "until their time" },
    { id: `place ${MARKED}`, name: "Any marker", detail: "markers" },
    { id: "place ", name: "All mail", detail: "everything" },
    ...SCREENS.map(([href, name]) => ({ id: `screen ${href}`, name, detail: "screen" })),
  ];
  const go = (id: string) => {
    close();
    const [kind, target] = [id.slice(0, id.indexOf(" ")), id.slice(id.indexOf(" ") + 1)];
    if (kind === "screen") return router.push(target);
    if (kind === "batch") goToBatch(Number(target));
    else goToPlace(target);
    router.push("/");
  };
  return <Picker title="Go to" choices={choices} onChoose={go} onClose={close} />;
}

function RunByName() {
  const macros = useView((v) => v.macros);
  const run = (id: string) => {
    close();
    const macro = macros.find((m) => String(m.id) === id);
    if (!macro) return;
    showPressed(macro.id);
    runMacro(macro);
  };
  return (
    <Picker
      title="Run a macro"
      choices={macros.map((m) => ({ id: String(m.id), name: m.name, detail: stepsText(m.steps) }))}
      onChoose={run}
      onClose={close}
    />
  );
}

/** Every key there is, searchable. */
function Keys() {
  const [typed, setTyped] = useState("");
  const macros = useView((v) => v.macros);
  const deck = useView((v) => v.decks.find((d) => d.number === v.deck));
  const labelOf = useKeyLabels();
  const keysText = (keys: string) =>
    (readSequence(keys) ?? []).map((chord) => chordName(chord, labelOf)).join(" then ");
  const macroName = (id: number) => macros.find((macro) => macro.id === id)?.name;
  const all = [
    ...(deck?.pads ?? []).map((pad) => ({ keys: padKeys(pad), name: macroName(pad.macro), group: "deck" })),
    ...(deck?.extra ?? []).map((extra) => ({ keys: extra.keys, name: macroName(extra.macro), group: "deck" })),
    ...FRAME_KEYS.map(([keys, action]) => ({ keys, name: FRAME_ACTIONS[action] as string, group: "frame" })),
    { keys: "Digit1", name: "deck 1, and so on to 9; hold to look", group: "frame" },
  ].flatMap((line) => (line.name ? [{ ...line, name: line.name }] : []));
  const found = findNames(all, (line) => `${line.name} ${keysText(line.keys)}`, typed);
  return (
    <Modal title="Every key" onClose={close} wide>
      <input
        autoFocus
        aria-label="Search keys"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        placeholder="Search: archive, select, undo…"
        className="w-full border-b border-rule bg-sheet px-4 py-2.5 outline-none"
      />
      <ul
        tabIndex={0}
        aria-label="Keys"
        className="grid max-h-[56vh] grid-cols-1 gap-x-8 overflow-y-auto px-4 py-3 text-[13px] sm:grid-cols-2"
      >
        {found.map((line) => (
          <li
            key={line.keys + line.name}
            className="flex items-baseline justify-between gap-3 border-b border-rule-soft py-1"
          >
            <span>{line.name}</span>
            <kbd>{keysText(line.keys)}</kbd>
          </li>
        ))}
        {found.length === 0 && <li className="text-ink-2">No key does that. Macros are bound in the workshop.</li>}
      </ul>
    </Modal>
  );
}

export function Dialogs() {
  const dialog = useView((v) => v.dialog);
  if (dialog?.kind === "go") return <GoTo />;
  if (dialog?.kind === "run-by-name") return <RunByName />;
  if (dialog?.kind === "keys") return <Keys />;
  if (dialog?.kind === "select-by") return <SelectByChoice />;
  if (dialog?.kind === "arrange") return <Arrange />;
  if (dialog?.kind === "form") return <Form />;
  if (dialog?.kind === "why") return <Why />;
  if (dialog?.kind === "aside") return <AsideList />;
  if (dialog?.kind === "batch") return <BatchDialog key={dialog.batch?.id ?? "new"} batch={dialog.batch} />;
  if (dialog?.kind === "ask") {
    const { macro, ids, described, questions, answers, chosen } = dialog;
    // Answers may lead to further questions: those begin anew with what is known.
    return <Ask key={questions.map((q) => q.id).join()} {...{ macro, ids, described, questions, answers, chosen }} />;
  }
  if (dialog?.kind === "confirm") {
    const { macro, ids, described, answers, chosen, seen } = dialog;
    return <Confirm {...{ macro, ids, described, answers, chosen, seen }} />;
  }
  return null;
}
