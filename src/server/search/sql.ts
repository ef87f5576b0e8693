import { STATE_BIT } from "@/core/columns";
import { TRAIT, type Test, type TextField } from "@/core/narrow";
import type { PendingQuery, Row } from "postgres";
import type { Queryable } from "../db";

type Fragment = PendingQuery<Row[]>;

/**
 * The SQL back end of the narrow language: a checked expression as a condition over message m and
 * message_state s. Its twin is the predicate in core/narrow; a differential test holds them equal.
 */
export function conditionOf(sql: Queryable, test: Test): Fragment {
  const f = (strings: TemplateStringsArray, ...values: unknown[]) =>
    (sql as unknown as (s: TemplateStringsArray, ...v: unknown[]) => Fragment)(strings, ...values);

  const stateSql = (state: Extract<Test, { kind: "state" }>["state"]): Fragment => {
    switch (state) {
      case "read":
        return f`s.bits & ${STATE_BIT.read} <> 0`;
      case "pinned":
        return f`s.bits & ${STATE_BIT.pin} <> 0`;
      case "owed":
        return f`s.bits & ${STATE_BIT.owed} <> 0`;
      case "flagged":
        return f`s.bits & ${STATE_BIT.flagged} <> 0`;
      case "awaited":
        return f`s.await_until is not null`;
      case "deferred":
        return f`s.defer_until is not null`;
      case "answered":
      case "attachment":
      case "invite":
      case "listmail":
      case "mine":
        return f`m.traits & ${TRAIT[state]} <> 0`;
    }
  };

  const textColumn = (field: TextField): Fragment => {
    switch (field) {
      case "from":
        return f`m.from_key`;
      case "to":
        return f`m.to_key`;
      case "subject":
        return f`m.subject_key`;
      case "preview":
        return f`m.preview_key`;
      case "list":
        return f`m.list_key`;
      case "note":
        return f`s.note_key`;
    }
  };

  const rangeSql = (test: Extract<Test, { kind: "range" }>): Fragment => {
    const bound = (op: Fragment, value: number): Fragment => {
      if (test.field === "size") return f`m.size ${op} ${value}::float8`;
      const column = test.field === "date" ? f`m.date` : f`s.flag_due`;
      return f`coalesce(${column} ${op} to_timestamp(${value}::float8 / 1000), false)`;
    };
    const from = test.from === null ? f`true` : bound(f`>=`, test.from);
    const to = test.to === null ? f`true` : bound(f`<`, test.to);
    const present = test.field === "due" ? f`s.flag_due is not null` : f`true`;
    return f`(${present} and ${from} and ${to})`;
  };

  const all = (parts: readonly Test[], joiner: Fragment, empty: Fragment): Fragment =>
    parts.reduce<Fragment | null>((sum, part) => (sum ? f`${sum} ${joiner} ${build(part)}` : build(part)), null) ??
    empty;

  const build = (part: Test): Fragment => {
    switch (part.kind) {
      case "all":
        return f`true`;
      case "and":
        return f`(${all(part.parts, f`and`, f`true`)})`;
      case "or":
        return f`(${all(part.parts, f`or`, f`false`)})`;
      case "not":
        return f`not ${build(part.part)}`;
      case "state":
        return f`(${stateSql(part.state)})`;
      case "text":
        // Needles hold only letters, digits and spaces, so nothing in them means anything to LIKE.
        return part.whole
          ? f`(${textColumn(part.field)} = ${part.needle})`
          : f`(${textColumn(part.field)} like ${`%${part.needle}%`})`;
      case "folder":
        return f`(s.folder = any(${[...part.ids]}::int[]))`;
      case "marker":
        return f`(s.marker = any(${[...part.ids]}::smallint[]))`;
      case "label":
        return f`(s.labels && ${[...part.ids]}::int[])`;
      case "range":
        return rangeSql(part);
    }
  };
  return build(test);
}
