"use client";
import { GROUPINGS, ORDERS, type Grouping, type ListOrder } from "@/core/list";
import { Picker } from "../parts/picker";
import { setGrouping, setOrder } from "../state/browse";
import { SELECT_BY, selectBy, type SelectBy } from "../state/select";
import { set, useView } from "../state/store";

const close = () => set({ dialog: null });

/** Orders as they are said. */
export const ORDER_TEXT: Record<ListOrder, string> = {
  newest: "newest first",
  oldest: "oldest first",
  sender: "by sender",
  subject: "by subject",
  largest: "largest first",
  smallest: "smallest first",
  "last answer": "by last answer",
  "comes back": "what comes back first",
  importance: "most important first",
  "likely junk": "likeliest junk first",
};
const GROUP_TEXT: Record<Grouping, string> = {
  none: "not in groups",
  sender: "in groups by sender",
  list: "in groups by mailing list",
  thread: "in groups by thread",
  day: "in groups by day",
  folder: "in groups by folder",
  label: "in groups by label",
  size: "in groups by size",
};

/** Chooses how the list is ordered and grouped, by part of the name. */
export function Arrange() {
  const order = useView((v) => v.order);
  const group = useView((v) => v.group);
  const now = (is: boolean) => (is ? "now" : undefined);
  const choices = [
    ...GROUPINGS.map((one) => ({ id: `group ${one}`, name: GROUP_TEXT[one], detail: now(one === group) })),
    ...ORDERS.map((one) => ({ id: `order ${one}`, name: ORDER_TEXT[one], detail: now(one === order) })),
  ];
  const choose = (id: string) => {
    close();
    const what = id.slice(6);
    if (id.startsWith("group ")) setGrouping(what as Grouping);
    else setOrder(what as ListOrder);
  };
  return <Picker title="Order and groups of the list" choices={choices} onChoose={choose} onClose={close} />;
}

/** Selects more at a stroke: what is like the focused message, or everything of a kind. */
export function SelectByChoice() {
  const choices = (Object.keys(SELECT_BY) as SelectBy[]).map((by) => ({ id: by, name: SELECT_BY[by] }));
  const choose = (id: string) => {
    close();
    selectBy(id as SelectBy);
  };
  return <Picker title="Select by" choices={choices} onChoose={choose} onClose={close} />;
}
