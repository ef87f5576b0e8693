import { cruise, type ICruiseResult } from "dependency-cruiser";
import { describe, expect, test } from "vitest";

/** Which room may know which: the table of the architecture, as a rule that fails. */
const CORE: Record<string, readonly string[]> = {
  id: [],
  place: ["id"],
  change: ["id"],
  ledger: ["id", "change"],
  text: [],
  when: [],
  agenda: ["when"],
  calendar: ["agenda", "change", "mail", "when"],
  swipe: [],
  keys: ["swipe"],
  narrow: ["id", "place", "when"],
  letter: ["text", "thread"],
  card: ["letter", "text"],
  macro: ["agenda", "id", "place", "change", "letter", "narrow", "text", "when", "thread"],
  filing: ["id", "text"],
  rule: ["id", "change", "letter", "macro", "mail", "narrow", "place", "sync", "text", "when"],
  pack: ["keys", "letter", "macro", "place", "swipe", "text"],
  deceit: ["text"],
  mail: ["id", "deceit", "narrow", "text"],
  thread: ["id"],
  sync: ["id", "change", "place"],
  archive: ["id", "change", "place"],
  columns: ["id", "change", "narrow"],
  pass: ["narrow"],
  pace: ["id", "change", "ledger"],
  list: ["id", "columns", "narrow", "thread", "when"],
  api: [
    "id",
    "agenda",
    "calendar",
    "change",
    "deceit",
    "keys",
    "ledger",
    "letter",
    "list",
    "macro",
    "place",
    "rule",
    "swipe",
    "text",
    "when",
  ],
};
/** Everybody may say what happens. */
const WATCH = "watch";
const SERVER: Record<string, readonly string[]> = {
  [WATCH]: [],
  db: [],
  store: ["db"],
  search: ["db", "store"],
  parse: ["db", "store", "search"],
  letters: ["db", "store", "search", "parse"],
  filing: ["db", "store"],
  run: ["db", "store", "search", "parse", "letters", "filing"],
  gateway: ["db", "store"],
  pace: ["db", "store"],
  "sign-in": ["db", "store", "gateway"],
  jobs: ["db", "store", "search", "parse", "letters", "filing", "run", "gateway", "pace", "sign-in"],
  act: ["db", "store", "search", "parse", "letters", "filing", "run", "gateway", "pace", "sign-in", "jobs"],
};
const JOBS_MAIN = "^src/server/jobs/main\\.ts$";
const PACKAGES_OF_CORE = ["zod", "postal-mime", "re2js", "htmlparser2", "ical.js", "rrule"];

const forbidden = [
  { name: "no-cycles", from: {}, to: { circular: true } },
  ...Object.entries(CORE).map(([room, may]) => ({
    name: `core-${room}`,
    from: { path: `^src/core/${room}/`, pathNot: "\\.test\\.ts$" },
    to: { path: "^(src|demo|tests)/", pathNot: `^src/core/(${[room, ...may].join("|")})/` },
  })),
  {
    name: "core-packages",
    from: { path: "^src/core/", pathNot: "\\.test\\.ts$" },
    to: { path: "node_modules/", pathNot: `node_modules/(${PACKAGES_OF_CORE.join("|")})/` },
  },
  ...Object.entries(SERVER).map(([room, may]) => ({
    name: `server-${room}`,
    from: { path: `^src/server/${room}/`, pathNot: JOBS_MAIN },
    to: { path: "^(src|demo|tests)/", pathNot: `^src/core/|^src/server/(${[room, WATCH, ...may].join("|")})/` },
  })),
  // Who writes to the demo's office is the simulated service's own affair; the program that is both puts them together.
  {
    name: "jobs-main",
    from: { path: JOBS_MAIN },
    to: { path: "^(src|demo|tests)/", pathNot: "^src/(core|server)/|^demo/(letters|answers)\\.ts$" },
  },
  {
    name: "ui",
    from: { path: "^src/ui/", pathNot: "\\.test\\.ts$" },
    to: { path: "^(src|demo|tests)/", pathNot: "^src/(ui|core)/" },
  },
  {
    name: "app",
    from: { path: "^src/app/" },
    to: { path: "^(src|demo|tests)/", pathNot: "^src/(app|ui|core)/|^src/server/act/index\\.ts$" },
  },
  { name: "demo", from: { path: "^demo/" }, to: { path: "^(src|tests)/", pathNot: "^src/core/" } },
];

async function offences(rules: typeof forbidden) {
  const result = await cruise(
    ["src", "demo"],
    {
      ruleSet: { forbidden: rules.map((rule) => ({ severity: "error" as const, ...rule })) },
      validate: true,
      tsPreCompilationDeps: true,
      tsConfig: { fileName: "tsconfig.json" },
      doNotFollow: { path: "node_modules" },
      combinedDependencies: false,
    },
    { extensions: [".ts", ".tsx"], alias: { "@": new URL("../../src", import.meta.url).pathname } } as never,
  );
  const { summary } = result.output as ICruiseResult;
  return { modules: summary.totalCruised, found: summary.violations.map((v) => `${v.rule.name}: ${v.from} → ${v.to}`) };
}

describe("rooms", () => {
  test("import only what they may", async () => {
    const { modules, found } = await offences(forbidden);
    expect(modules).toBeGreaterThan(120);
    expect(found).toEqual([]);
  });

  test("and the rule can fail: core/change does know core/id", async () => {
    const { found } = await offences([
      {
        name: "planted",
        from: { path: "^src/core/change/", pathNot: "planted" },
        to: { path: "^src/core/id/", pathNot: "planted" },
      },
    ]);
    expect(found.length).toBeGreaterThan(2);
  });
});
