import type { DraftShape } from "@/core/api";
import { docOfText } from "@/core/letter";
import { write } from "../state/api";
import { notify, view } from "../state/store";

/** Begins a letter of the person's to themselves. @returns its draft; null where it could not be begun, which is said */
export async function writeToMyself(subject: string, text: string): Promise<number | null> {
  const { name, address } = view().home!.person;
  try {
    const body = docOfText(text);
    const draft = await write<DraftShape>("POST", "/drafts", { kind: "new", to: [{ name, address }], subject, body });
    return draft.id;
  } catch (error) {
    notify(error instanceof Error ? error.message : "The letter could not be begun. Try again.", "trouble");
    return null;
  }
}
