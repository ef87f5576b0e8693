import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { listed } from "../state/reads";
import { mailbox } from "../state/store";

/** Whose mail a rule is for: everybody's, or that of who is on its list; "unread" while the list is being read. */
export type Whose = "everybody" | "unread" | ReadonlySet<string>;

export function useWhose(list: string | null): Whose {
  const { data } = useQuery({ ...listed(list ?? ""), enabled: list !== null });
  return useMemo(() => (list === null ? "everybody" : data ? new Set(data.addresses) : "unread"), [list, data]);
}

/** Of some messages those that a rule is for, by who wrote them. */
export function ofThose(ids: readonly number[], whose: Whose): readonly number[] {
  if (whose === "everybody") return ids;
  if (whose === "unread" || whose.size === 0) return [];
  return ids.filter((id) => {
    const row = mailbox.rowOf(id);
    return row !== undefined && whose.has(mailbox.text(row, "fromAddress").toLowerCase());
  });
}
