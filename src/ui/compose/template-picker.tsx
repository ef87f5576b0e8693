"use client";
import type { TemplateShape } from "@/core/api";
import type { MessageId } from "@/core/id";
import type { Doc } from "@/core/letter";
import { fillNow } from "@/core/macro";
import { Picker } from "../parts/picker";
import { lastRead } from "../state/reads";
import { mailbox, useView } from "../state/store";

interface Props {
  /** The message the letter answers. */
  readonly answers: number | null;
  readonly onTake: (filled: { readonly subject: string; readonly body: Doc }) => void;
  readonly onClose: () => void;
}

/** Puts a template into a letter, filled in as far as the message tells. */
export function TemplatePicker({ answers, onTake, onClose }: Props) {
  const templates = useView((v) => v.home?.templates) ?? [];
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const choose = (template: TemplateShape) => {
    const body = answers === null ? null : (lastRead(answers)?.text ?? null);
    const known = answers === null ? null : mailbox.facts(answers as MessageId);
    const facts = known && { ...known, body };
    onTake(fillNow(template, facts, { now: new Date(), zone }));
  };
  return (
    <Picker
      title="Put in a template"
      choices={templates.map(({ id, name, folder, subject }) => ({
        id: String(id),
        name: folder === "" ? name : `${folder}: ${name}`,
        detail: subject,
      }))}
      onChoose={(id) => choose(templates.find((one) => String(one.id) === id)!)}
      onClose={onClose}
      {...(templates.length === 0 ? { problem: "There are no templates yet. The screen Templates makes them." } : {})}
    />
  );
}
