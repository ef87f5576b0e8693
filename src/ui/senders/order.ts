import type { SenderShape } from "@/core/api";

/** What a table of senders is ordered by; the most first, but for names. */
export const ORDERS = {
  unreadMonthly: "never read",
  total: "messages",
  trashedUnread: "trashed unread",
  inbox: "in the inbox",
  bytes: "space",
  name: "name",
} as const;
export type SenderOrder = keyof typeof ORDERS;

export const inOrder = (senders: readonly SenderShape[], order: SenderOrder): SenderShape[] =>
  [...senders].sort((a, b) =>
    order === "name"
      ? a.name.localeCompare(b.name, "en", { sensitivity: "base" })
      : b[order] - a[order] || b.total - a.total || (a.source < b.source ? -1 : 1),
  );

/** A share of all as whole percent; "" of nothing. */
export const shareText = (part: number, all: number): string =>
  all === 0 ? "" : `${Math.round((100 * part) / all)} %`;
