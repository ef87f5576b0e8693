"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { ContactShape, GroupShape } from "@/core/api";
import { Recipients } from "../compose/recipients";
import { AddLine } from "../parts/add-line";
import { TextEdit } from "../parts/text-edit";
import { editsOf, inQuery } from "../state/keepsakes";
import { groups } from "../state/reads";

interface Props {
  readonly people: readonly ContactShape[];
}

const ofGroups = editsOf<GroupShape>({ path: "/groups", ...inQuery(groups.queryKey) });

function Group({ group, people }: { readonly group: GroupShape } & Props) {
  const [open, setOpen] = useState(false);
  const { name, members } = group;
  return (
    <li className="border-b border-rule-soft py-1 text-[13px]">
      <span className="flex items-center gap-2">
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="min-w-0 flex-1 truncate text-left"
        >
          <b>{name}</b> <span className="num text-ink-2">{members.length}</span>
        </button>
        <button
          type="button"
          aria-label={`Remove the group ${name}`}
          onClick={() => void ofGroups.remove(group, `Removed the group ${name}`)}
        >
          ×
        </button>
      </span>
      {open && (
        <>
          <TextEdit
            label={`Name of the group ${name}`}
            value={name}
            onChange={(next) => ofGroups.change(group, { name: next }, `${name} is ${next} now`)}
            className="w-full"
          />
          <Recipients
            label="of"
            people={members.map((address) => ({
              address,
              name: people.find((one) => one.address === address)?.name ?? "",
            }))}
            onChange={(next) =>
              void ofGroups.change(group, { members: next.map(({ address }) => address) }, `Changed who is in ${name}`)
            }
          />
        </>
      )}
    </li>
  );
}

/** People who are written to together, by one name. */
export function Groups({ people }: Props) {
  const { data = [] } = useQuery(groups);
  return (
    <section aria-labelledby="groups-title" className="border-t border-rule px-3.5 py-2">
      <h2 id="groups-title" className="text-[11px] font-semibold text-ink-3">
        Groups
      </h2>
      <ul>
        {data.map((group) => (
          <Group key={group.id} group={group} people={people} />
        ))}
      </ul>
      <AddLine
        label="Name of a new group"
        placeholder="new group"
        verb="Make"
        onAdd={async (name) => (await ofGroups.make({ name }, `Made the group ${name}`)) !== null}
        className="mt-1"
      />
    </section>
  );
}
