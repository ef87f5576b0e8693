import { notifyManager, QueryClient, queryOptions, replaceEqualDeep } from "@tanstack/react-query";
import type {
  AccountShape,
  Between,
  BlockedShape,
  CalendarShape,
  ContactShape,
  CorrespondentShape,
  DryAnswer,
  EntryDetail,
  EventShape,
  FilingShape,
  FoundShape,
  GroupShape,
  HoursAnswer,
  IdentityShape,
  InvitationShape,
  JobShape,
  MacroShape,
  Message,
  OffersShape,
  RuleShape,
  SenderShape,
  SieveAnswer,
  SignedInShape,
  SimulatorShape,
  TaskShape,
  TokenShape,
  TroubleShape,
} from "@/core/api";
import { Away, get, getOpenTasks, getText, write } from "./api";
import { whenIdle } from "./idle";
import { keepAnswer, keptAnswer } from "./kept-answers";
import { view } from "./store";
import { readBehind } from "./writes";

/**
 * What screens read beside the mailbox, each described once: where it comes from, and when it is old. A server
 * that is away is asked again until it is back; what it refuses is shown.
 */
const RETRY_MS = 2000;

// What is shown before it is stored is shown in the task of its key or click: one later, a checkbox goes back and
// forth once, and a key takes a frame more.
notifyManager.setScheduler(queueMicrotask);

export const reads = new QueryClient({
  defaultOptions: {
    queries: {
      // The server is on this machine: whether there is a network says nothing.
      networkMode: "always",
      retry: (_, error) => error instanceof Away,
      retryDelay: RETRY_MS,
      refetchOnWindowFocus: false,
      refetchOnReconnect: false,
    },
  },
});

/** What the server says, or while it does not answer, what it said last. */
async function getOrKept<T>(path: string): Promise<T> {
  const kept = async () => (await keptAnswer<T>(path))?.value;
  // Known to be away, it is not waited for.
  const known = view().link === "away" ? await kept() : undefined;
  if (known !== undefined) return known;
  try {
    const text = await getText(path);
    // The browser takes some milliseconds to keep it: they are not taken from a key.
    whenIdle(() => void keepAnswer(path, text));
    return JSON.parse(text) as T;
  } catch (error) {
    const old = error instanceof Away ? await kept() : undefined;
    if (old === undefined) throw error;
    return old;
  }
}

/** Tasks hang on what runs do: they are read anew with the settings, which every change of them tells of. */
export const tasks = queryOptions({
  queryKey: ["tasks"],
  queryFn: () => readBehind(() => getOrKept<TaskShape[]>("/tasks")),
});

/** Which tasks are open, or while the server does not answer, which were when all of them were read last. */
async function openOrKept(): Promise<ReadonlyMap<number, readonly number[]>> {
  try {
    return await getOpenTasks();
  } catch (error) {
    const old = error instanceof Away ? await keptAnswer<TaskShape[]>("/tasks") : null;
    if (!old) throw error;
    const out = new Map<number, number[]>();
    for (const { message, due, done } of old.value)
      if (message !== null && !done)
        out.set(message, [...(out.get(message) ?? []), due === null ? NaN : Date.parse(due)]);
    return out;
  }
}

/** Which messages open tasks were made from, and when these are due: read anew where a task was written. */
export const openTasks = queryOptions({
  queryKey: ["open tasks"],
  queryFn: () => readBehind(openOrKept),
  // Maps are never told apart by what is in them.
  structuralSharing: false,
});

/** Programs that act for the person; the same. */
export const tokens = queryOptions({ queryKey: ["tokens"], queryFn: () => get<TokenShape[]>("/tokens") });

/** How one signs in and where; not kept in the browser. */
export const signedIn = queryOptions({
  queryKey: ["signed in"],
  queryFn: () => get<SignedInShape>("/sessions"),
});

export const calendars = queryOptions({
  queryKey: ["calendars"],
  queryFn: () => readBehind(() => getOrKept<CalendarShape[]>("/calendars")),
});

/** Months and weeks that are shown reach so far over the month they are in. */
const MARGIN_MS = 14 * 86_400_000;

/** Each event as another month has it already, where that says the same: what is shown of it stays as it is drawn. */
function asHeld(events: readonly EventShape[]): EventShape[] {
  const held = new Map<number, EventShape>();
  for (const [, month] of reads.getQueriesData<EventShape[]>({ queryKey: ["events"] }))
    for (const event of month ?? []) held.set(event.id, event);
  return events.map((event) => replaceEqualDeep(held.get(event.id), event));
}

/** What calendars hold in a month and around it, each series once. @param month "2026-11" */
export const eventsOf = (month: string) => {
  const [year = 0, number = 0] = month.split("-").map(Number);
  const from = new Date(Date.UTC(year, number - 1, 1) - MARGIN_MS).toISOString();
  const to = new Date(Date.UTC(year, number, 1) + MARGIN_MS).toISOString();
  return queryOptions({
    queryKey: ["events", month],
    queryFn: () => readBehind(async () => asHeld(await getOrKept<EventShape[]>(`/events?from=${from}&to=${to}`))),
  });
};

/** Free times of so many minutes to offer somebody: asked for anew each time, since what is planned changes. */
export const offersOf = (minutes: number) =>
  queryOptions({
    queryKey: ["offers", minutes],
    queryFn: () => get<OffersShape>(`/agenda/offers?minutes=${minutes}`),
    staleTime: 0,
  });

/** What is planned may be other than it was: it is read anew, whichever month of it is shown. */
export function plannedElsewhere(): void {
  for (const key of ["events", "invitation"]) void reads.invalidateQueries({ queryKey: [key] });
}

/** What a message asks somebody to; null where it asks nothing. */
export const invitation = (message: number) =>
  queryOptions({
    queryKey: ["invitation", message],
    queryFn: () => readBehind(() => getOrKept<InvitationShape | null>(`/messages/${message}/invitation`)),
  });

/** What an entry changed; its state says whether that is still so. */
export const entryDetail = (id: string, state: string) =>
  queryOptions({ queryKey: ["entry", id, state], queryFn: () => get<EntryDetail>(`/ledger/${id}`) });

const LOOK_EVERY_MS = 700;
const isOver = (job: JobShape): boolean => job.state === "done" || job.state === "failed";

/** Blocked senders: like tasks they hang on what runs do. */
export const blocked = queryOptions({ queryKey: ["blocked"], queryFn: () => getOrKept<BlockedShape[]>("/blocked") });

/** Who writes often: it hangs on all mail, and is asked for anew each time it is shown. */
export const senders = queryOptions({
  queryKey: ["senders"],
  queryFn: () => getOrKept<SenderShape[]>("/senders"),
  staleTime: 0,
});

/** What is done with mail that comes in; read anew with the settings, and with each write of theirs. */
export const rules = queryOptions({
  queryKey: ["rules"],
  queryFn: () => readBehind(() => getOrKept<RuleShape[]>("/rules")),
});

/** The rules that are on as a script: written anew each time it is asked for. */
export const sieveScript = queryOptions({
  queryKey: ["rules", "sieve"],
  queryFn: () => readBehind(() => get<SieveAnswer>("/rules/sieve")),
  gcTime: 0,
});

/** Who is on a list that rules are for. */
export const listed = (name: string) =>
  queryOptions({
    queryKey: ["rules", "list", name],
    queryFn: () => get<{ addresses: string[] }>(`/lists/${encodeURIComponent(name)}`),
  });

/** What recurs by hand; it hangs on every decision, and is asked for anew each time it is shown. */
export const found = queryOptions({ queryKey: ["found"], queryFn: () => get<FoundShape>("/found"), staleTime: 0 });

/** Hours in which mail is let in, and how much waits; read anew with the settings, and with each write. */
export const hours = queryOptions({
  queryKey: ["hours"],
  queryFn: () => readBehind(() => getOrKept<HoursAnswer>("/hours")),
});

/** What filing has taught; told of as it learns. */
export const filing = queryOptions({ queryKey: ["filing"], queryFn: () => get<FilingShape>("/filing") });

/** Contacts, and whom one may write to: both hang on what is sent and on what runs do. */
export const contacts = queryOptions({ queryKey: ["contacts"], queryFn: () => getOrKept<ContactShape[]>("/contacts") });
/** What went to and fro with somebody: it hangs on all mail, and is asked for anew each time it is shown. */
export const between = (address: string) =>
  queryOptions({
    queryKey: ["contacts", "between", address],
    queryFn: () => get<Between>(`/contacts/${encodeURIComponent(address)}`),
    staleTime: 0,
  });
export const groups = queryOptions({ queryKey: ["groups"], queryFn: () => getOrKept<GroupShape[]>("/groups") });
export const correspondents = queryOptions({
  queryKey: ["correspondents"],
  queryFn: () => getOrKept<{ people: CorrespondentShape[]; groups: GroupShape[] }>("/correspondents"),
  staleTime: 60_000,
});

/** Whom the person writes as: read anew where the settings are. */
export const identities = queryOptions({
  queryKey: ["identities"],
  queryFn: () => getOrKept<IdentityShape[]>("/identities"),
  staleTime: 60_000,
});

/** Accounts with mail services; news of them are told, and a time that passes is looked at now and then. */
export const accounts = queryOptions({
  queryKey: ["accounts"],
  queryFn: () => get<AccountShape[]>("/accounts"),
  refetchInterval: 10_000,
});

/** Those of them that cannot be asked now: told with the news of them. */
export const troubles = queryOptions({
  queryKey: ["accounts", "trouble"],
  queryFn: () => get<TroubleShape[]>("/accounts/trouble"),
  staleTime: Infinity,
});

/** The simulated mail service; there need not be one. */
export const simulator = queryOptions({
  queryKey: ["simulator"],
  queryFn: () => get<SimulatorShape>("/simulator"),
  refetchInterval: ({ state }) => (state.data ? 2 * LOOK_EVERY_MS : false),
});

/** Imports, looked at more often while one goes on. */
export const jobs = queryOptions({
  queryKey: ["jobs"],
  queryFn: () => get<JobShape[]>("/jobs"),
  refetchInterval: ({ state }) => (state.data?.every(isOver) === false ? LOOK_EVERY_MS : 5 * LOOK_EVERY_MS),
});

/** Conditions that were used before; read each time somebody begins to write one. */
export const narrowings = queryOptions({ queryKey: ["narrowings"], queryFn: () => get<string[]>("/narrowings") });

/** A source is as it came, for ever. @param most characters that are shown */
export const source = (id: number, most: number) =>
  queryOptions({
    queryKey: ["source", id],
    queryFn: async () => (await getText(`/messages/${id}/raw`)).slice(0, most),
    staleTime: Infinity,
  });

/** Messages are large: those not looked at for so long are let go. */
const KEPT_MS = 120_000;
const COMING_MS = 700;

/**
 * A message. It never changes, but what hangs on it does.
 * @param stamp changes when what was read before may be old
 */
export const message = (id: number, stamp: number) =>
  queryOptions({
    queryKey: ["message", id],
    queryFn: async () => ({ message: await getOrKept<Message>(`/messages/${id}`), stamp }),
    staleTime: ({ state }) => (state.data?.stamp === stamp && state.data.message.source !== "coming" ? Infinity : 0),
    gcTime: KEPT_MS,
    // Looked at, a text that is on its server still comes before others: it is here within moments.
    refetchInterval: ({ state }) => (state.data?.message.source === "coming" ? COMING_MS : false),
  });

/** What was read of a message last, be it old. */
export const lastRead = (id: number): Message | undefined => reads.getQueryData(message(id, 0).queryKey)?.message;

/** What the server, which reads the texts, says a macro would do. */
export const dryRun = (
  { id, name, steps, settings }: MacroShape,
  ids: readonly number[],
  answers: Readonly<Record<string, string>> = {},
) =>
  queryOptions({
    queryKey: ["dry", id, name, steps, settings, ids, answers],
    queryFn: () =>
      write<DryAnswer>("POST", "/runs", {
        id: crypto.randomUUID(),
        macro: { ...(id > 0 ? { id } : {}), name, steps, settings },
        target: { ids },
        answers,
        dry: true,
      }),
  });

const BESIDE_MAIL = new Set(
  [calendars, blocked, contacts, correspondents, senders, rules].map(({ queryKey }) => queryKey[0]),
);
/**
 * What runs make beside changes of mail is read anew, where it is shown. Everything that was read is looked at for
 * that with each run, thousands of messages among it: once, and not for each of the kinds.
 */
export function madeElsewhere(): void {
  void reads.invalidateQueries({ predicate: ({ queryKey }) => BESIDE_MAIL.has(queryKey[0] as string) });
}
