import { STATE_BIT } from "@/core/columns";
import type { PersonId } from "@/core/id";
import { isTraitState, STATE_TRAITS, type Test, type TextField } from "@/core/narrow";
import type { PendingQuery, Row } from "postgres";
import type { Queryable } from "../db";
import { listOf } from "../store";
import { queryOf } from "./vector";

type Fragment = PendingQuery<Row[]>;
/** A part of a query, as the driver's tag makes it. */
type Sql = (strings: TemplateStringsArray, ...values: unknown[]) => Fragment;

const TEXT_COLUMN: Record<TextField, (f: Sql) => Fragment> = {
  from: (f) => f`m.from_key`,
  to: (f) => f`m.to_key`,
  cc: (f) => f`m.cc_key`,
  via: (f) => f`m.via_key`,
  subject: (f) => f`m.subject_key`,
  file: (f) => f`m.file_key`,
  list: (f) => f`m.list_key`,
  note: (f) => f`s.note_key`,
};

const RANGE_COLUMN: Record<"date" | "due" | "deferred", (f: Sql) => Fragment> = {
  date: (f) => f`m.date`,
  due: (f) => f`s.flag_due`,
  deferred: (f) => f`s.defer_until`,
};

function stateSql(f: Sql, state: Extract<Test, { kind: "state" }>["state"]): Fragment {
  if (isTraitState(state)) return f`m.traits & ${STATE_TRAITS[state]} <> 0`;
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
    case "returned":
      return f`s.back_since is not null`;
    case "marked":
      return f`s.marker <> 0`;
  }
}

/** Open tasks are few: those of the person are looked up once. */
function taskSql(f: Sql, person: PersonId, due: Extract<Test, { kind: "task" }>["due"]): Fragment {
  const bound = (op: Fragment, ms: number | null) =>
    ms === null ? f`true` : f`t.due ${op} to_timestamp(${ms}::float8 / 1000)`;
  const isDue = due === null ? f`true` : f`t.due is not null and ${bound(f`>=`, due.from)} and ${bound(f`<`, due.to)}`;
  return f`(m.id in (select t.message from task t
    where t.person = ${person} and t.message is not null and not t.done and ${isDue}))`;
}

function rangeSql(f: Sql, test: Extract<Test, { kind: "range" }>): Fragment {
  const { field } = test;
  const bound = (op: Fragment, value: number): Fragment => {
    if (field === "size") return f`m.size ${op} ${value}::float8`;
    return f`coalesce(${RANGE_COLUMN[field](f)} ${op} to_timestamp(${value}::float8 / 1000), false)`;
  };
  const from = test.from === null ? f`true` : bound(f`>=`, test.from);
  const to = test.to === null ? f`true` : bound(f`<`, test.to);
  const present = field === "due" || field === "deferred" ? f`${RANGE_COLUMN[field](f)} is not null` : f`true`;
  return f`(${present} and ${from} and ${to})`;
}

export interface SearchContext {
  readonly person: PersonId;
  /** Whether the words of all messages are indexed: then the index alone is looked into. */
  readonly indexed: boolean;
  /**
   * The messages that hold the words of a test; null for too many to be named one by one. Without it each message
   * that is met is looked at by itself.
   */
  readonly found: ReadonlyMap<WordsTest, readonly number[] | null> | null;
}

/** Messages that are fetched by their ids rather than met on the way, where nothing else is asked of them. */
const MOST_FETCHED = 3000;
/** And where something is: of what is on a message the planner knows too little to go through the mail in its order. */
const MOST_FETCHED_OF = 20_000;

export type WordsTest = Extract<Test, { kind: "words" }>;

/**
 * Words: by their index, and what it does not hold yet by the headers. A message that is not indexed is not
 * found by its own words; whoever shows results says so (see wordsThrough).
 */
function wordsSql(
  f: Sql,
  { person, indexed: isWhole, found }: SearchContext,
  words: WordsTest,
  mostFetched: number,
): Fragment {
  const { where, needle } = words;
  const ids = found?.get(words);
  const alone = where === "body" || isWhole;
  const list = ids && f`(select unnest(${listOf(ids)}::text::bigint[]))`;
  // A few are fetched in the order of their ids, as they lie; that takes an index, and so a condition that every
  // message has to meet. Many are met soon by who goes through the mail in its order: "is true" keeps the planner
  // from fetching them.
  const indexed = !found
    ? f`exists (select from message_words w where w.person = ${person} and w.message = m.id
        and w.words @@ ${queryOf(needle, where === "body")}::tsquery)`
    : list
      ? alone && ids.length <= mostFetched
        ? f`m.id = any(array${list})`
        : f`(m.id in ${list}) is true`
      : f`m.id in (select w.message from message_words w
        where w.person = ${person} and w.words @@ ${queryOf(needle, where === "body")}::tsquery)`;
  if (alone) return f`(${indexed})`;
  // Needles hold only letters, digits and spaces, so nothing in them means anything to LIKE.
  const like = `%${needle}%`;
  const through = f`coalesce((select i.through from word_index i where i.person = ${person}), 0)`;
  return f`(${indexed} or (m.id > ${through} and (m.subject_key like ${like} or m.from_key like ${like}
    or m.to_key like ${like} or m.file_key like ${like})))`;
}

/** Whether a condition asks only about what is on a message: then the message itself need not be read. */
export function asksOfState(test: Test): boolean {
  switch (test.kind) {
    case "and":
    case "or":
      return test.parts.every(asksOfState);
    case "not":
      return asksOfState(test.part);
    case "all":
    case "folder":
    case "marker":
    case "label":
      return true;
    case "state":
      return !isTraitState(test.state);
    case "range":
      return test.field === "due" || test.field === "deferred";
    case "text":
      return test.field === "note";
    case "account":
    case "words":
    case "task":
      return false;
  }
}

/**
 * The SQL back end of the narrow language: a checked expression as a condition over message m and
 * message_state s. Its twin is the predicate in core/narrow; a differential test holds them equal.
 */
export function conditionOf(sql: Queryable, context: SearchContext, test: Test): Fragment {
  // The two kinds of client have no common type of their tag that takes parts of queries.
  const f = sql as unknown as Sql;
  const mostFetched = test.kind === "words" ? MOST_FETCHED : MOST_FETCHED_OF;
  const all = (parts: readonly Test[], joiner: Fragment, empty: Fragment, isRequired: boolean): Fragment =>
    parts.reduce<Fragment | null>((sum, part) => {
      const one = build(part, isRequired);
      return sum ? f`${sum} ${joiner} ${one}` : one;
    }, null) ?? empty;
  /** @param isRequired whether every message has to meet it */
  const build = (part: Test, isRequired: boolean): Fragment => {
    switch (part.kind) {
      case "all":
        return f`true`;
      case "and":
        return f`(${all(part.parts, f`and`, f`true`, isRequired)})`;
      case "or":
        return f`(${all(part.parts, f`or`, f`false`, false)})`;
      case "not":
        return f`not ${build(part.part, false)}`;
      case "state":
        return f`(${stateSql(f, part.state)})`;
      case "text":
        return part.whole
          ? f`(${TEXT_COLUMN[part.field](f)} = ${part.needle})`
          : f`(${TEXT_COLUMN[part.field](f)} like ${`%${part.needle}%`})`;
      case "words":
        return wordsSql(f, context, part, isRequired ? mostFetched : 0);
      case "folder":
        return f`(s.folder = any(${[...part.ids]}::int[]))`;
      case "marker":
        return f`(s.marker = any(${[...part.ids]}::smallint[]))`;
      case "account":
        return f`(m.account = any(${[...part.ids]}::int[]))`;
      case "label":
        return f`(s.labels && ${[...part.ids]}::int[])`;
      case "range":
        return rangeSql(f, part);
      case "task":
        return taskSql(f, context.person, part.due);
    }
  };
  return build(test, true);
}
