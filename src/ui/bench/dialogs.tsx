"use client";
import { useRouter } from "next/navigation";
import { stepsText } from "@/core/macro";
import { writeEquals } from "@/core/narrow";
import { Picker } from "../parts/picker";
import { Keys } from "./keys-dialog";
import { goToBatch, goToPlace } from "../state/browse";
import { AWAITED, DEFERRED, MARKED, OWED, placeOf } from "../state/places";
import { goOn } from "../state/pass";
import { runMacro } from "../state/run";
import { set, useView } from "../state/store";
import { AsideList } from "../aside/aside-list";
import { Confirm } from "../foresight/confirm";
import { FileAll } from "../foresight/file-all";
import { BatchDialog } from "../batches/batch-dialog";
import { Jump } from "../pass/jump";
import { RuleDialog } from "../rules/rule-dialog";
import { Arrange, SelectByChoice } from "./arrange";
import { Ask } from "./ask";
import { Form } from "./form";
import { Why } from "./why";
import { showPressed } from "./commands";

const close = () => set({ dialog: null });

const SCREENS = [
  ["/", "Bench"],
  ["/tasks", "Tasks"],
  ["/agenda", "Agenda"],
  ["/templates", "Templates"],
  ["/contacts", "Contacts"],
  ["/senders", "Senders and lists"],
  ["/pace", "Pace: figures and charts"],
  ["/rules", "Rules: what is done with mail as it comes in"],
  ["/ledger", "Ledger"],
  ["/workshop", "Workshop"],
  ["/accounts", "Accounts: mail servers"],
  ["/places", "Places: folders, labels, markers"],
  ["/import", "Import"],
  ["/you", "You: sign-in and sessions"],
] as const;

function GoTo() {
  const router = useRouter();
  const folders = useView((v) => v.directory.folders);
  const labels = useView((v) => v.directory.labels);
  const batches = useView((v) => v.home?.batches);
  const markers = useView((v) => v.directory.markers);
  const passes = useView((v) => v.home?.passes);
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
    ...(passes ?? []).map((pass) => ({
      id: `pass ${pass.id}`,
      name: `Pass of ${pass.name}`,
      detail: `${pass.decided} of ${pass.length}`,
    })),
    { id: `place ${DEFERRED}`, name: "Deferred", detail: "until their time" },
    { id: `place ${AWAITED}`, name: "Awaited", detail: "until an answer comes" },
    { id: `place ${OWED}`, name: "Owed", detail: "still to be answered" },
    { id: `place ${MARKED}`, name: "Any marker", detail: "markers" },
    { id: "place ", name: "All mail", detail: "everything" },
    ...SCREENS.map(([href, name]) => ({ id: `screen ${href}`, name, detail: "screen" })),
  ];
  const go = (id: string) => {
    close();
    const [kind, target] = [id.slice(0, id.indexOf(" ")), id.slice(id.indexOf(" ") + 1)];
    if (kind === "screen") return router.push(target);
    if (kind === "pass") void goOn({ id: target });
    else if (kind === "batch") goToBatch(Number(target));
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

export function Dialogs() {
  const dialog = useView((v) => v.dialog);
  if (dialog?.kind === "go") return <GoTo />;
  if (dialog?.kind === "run-by-name") return <RunByName />;
  if (dialog?.kind === "keys") return <Keys />;
  if (dialog?.kind === "select-by") return <SelectByChoice />;
  if (dialog?.kind === "arrange") return <Arrange />;
  if (dialog?.kind === "jump") return <Jump />;
  if (dialog?.kind === "form") return <Form />;
  if (dialog?.kind === "why") return <Why />;
  if (dialog?.kind === "rule") return <RuleDialog from={dialog.from} />;
  if (dialog?.kind === "aside") return <AsideList />;
  if (dialog?.kind === "batch") return <BatchDialog key={dialog.batch?.id ?? "new"} batch={dialog.batch} />;
  if (dialog?.kind === "ask") {
    const { macro, ids, described, questions, answers, chosen } = dialog;
    // Answers may lead to further questions: those begin anew with what is known.
    return <Ask key={questions.map((q) => q.id).join()} {...{ macro, ids, described, questions, answers, chosen }} />;
  }
  if (dialog?.kind === "file-all") return <FileAll macro={dialog.macro} ids={dialog.ids} />;
  if (dialog?.kind === "confirm") {
    const { macro, ids, described, answers, chosen, seen } = dialog;
    return <Confirm {...{ macro, ids, described, answers, chosen, seen }} />;
  }
  return null;
}
