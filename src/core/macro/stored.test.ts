import { describe, expect, test } from "vitest";
import { loadNarrow, storeNarrow, type IdOf, type NameOf, type StoredNarrow } from "../narrow";
import { loadSettings, loadSteps, redirected, storeSettings, storeSteps, withNames, type Step } from ".";

/** Names as they are, and as they are later. */
const NAMES = {
  folder: ["Inbox", "Bookings", "Lost property"],
  label: ["Invoice"],
  marker: ["R"],
  account: ["Desk"],
  macro: ["File"],
};
const idOf: IdOf = (kind, name) => {
  const at = NAMES[kind].findIndex((one) => one.toLowerCase() === name.toLowerCase());
  return at < 0 ? null : at + 1;
};
const nameOf: NameOf = (kind, id) => NAMES[kind][id - 1] ?? null;
const later: NameOf = (kind, id) => (kind === "folder" && id === 2 ? 'The "big" one' : nameOf(kind, id));
const gone: NameOf = () => null;

const STEPS: readonly Step[] = [
  { do: "only when", narrow: 'folder=Bookings & subject~"folder=Bookings please" & !label=Invoice' },
  {
    do: "if",
    narrow: 'marker=R | folder="Lost property"',
    then: [{ do: "copy", to: "bookings" }],
    else: [
      { do: "label", toggle: "Invoice" },
      { do: "marker", set: "R" },
    ],
  },
  { do: "move", to: { ask: "folder" } },
  { do: "label", remove: "Nothing yet" },
  { do: "note", text: "Bookings" },
  { do: "run macro", macro: "file" },
];

describe("steps as they are kept", () => {
  test("hold ids in the place of names, and come back with the names of then", () => {
    const stored = storeSteps(STEPS, idOf);
    const text = JSON.stringify(stored);
    expect(text).toContain('{"ref":"folder","id":2,"name":"bookings"}');
    expect(text).toContain('{"ref":"macro","id":1,"name":"file"}');
    const back = loadSteps(JSON.parse(text), later);
    expect(back).toEqual([
      { do: "only when", narrow: 'folder="The ""big"" one" & subject~"folder=Bookings please" & !label=Invoice' },
      {
        do: "if",
        narrow: 'marker=R | folder="Lost property"',
        then: [{ do: "copy", to: 'The "big" one' }],
        else: [
          { do: "label", toggle: "Invoice" },
          { do: "marker", set: "R" },
        ],
      },
      { do: "move", to: { ask: "folder" } },
      { do: "label", remove: "Nothing yet" },
      { do: "note", text: "Bookings" },
      { do: "run macro", macro: "File" },
    ]);
  });
  test("show the last name of what is no more, and keep plain what never was", () => {
    const [first, , , fourth] = loadSteps(storeSteps(STEPS, idOf), gone);
    expect(first).toMatchObject({ narrow: expect.stringContaining("folder=Bookings &") });
    expect(fourth).toEqual({ do: "label", remove: "Nothing yet" });
  });
  test("are refused where they are no steps", () => {
    expect(() => loadSteps([{ do: "fly" }], nameOf)).toThrow();
  });
  test("name another folder once theirs is merged into it", () => {
    const stored = redirected(storeSteps(STEPS, idOf), "folder", new Set([2]), 3);
    const [first, second] = loadSteps(stored, nameOf);
    expect(first).toMatchObject({ narrow: expect.stringContaining('folder="Lost property" & subject') });
    expect(second).toMatchObject({ then: [{ do: "copy", to: "Lost property" }], else: [{ toggle: "Invoice" }, {}] });
  });
  test("are given other names all at once", () => {
    const turned = withNames({ steps: STEPS, settings: {} }, (kind, name) =>
      kind === "folder" ? `${name}/Old` : name,
    ).steps;
    expect(turned[0]).toMatchObject({ narrow: expect.stringContaining("folder=Bookings/Old & subject") });
    expect(turned[1]).toMatchObject({ then: [{ to: "bookings/Old" }] });
    expect(withNames({ steps: STEPS, settings: {} }, (_, name) => name).steps).toEqual(STEPS);
  });
});

describe("settings as they are kept", () => {
  test("hold their condition by id, and everything else as it is", () => {
    const settings = { for: "folder=Bookings", confirm: 5, focus: "stay" } as const;
    const stored = JSON.parse(JSON.stringify(storeSettings(settings, idOf))) as object;
    expect(loadSettings(stored, nameOf)).toEqual(settings);
    expect(loadSettings(stored, later)).toEqual({ ...settings, for: 'folder="The ""big"" one"' });
    expect(loadSettings(storeSettings({ confirm: "never" }, idOf), nameOf)).toEqual({ confirm: "never" });
    // What an older version kept is a plain text.
    expect(loadSettings({ for: "folder=Bookings" }, later)).toEqual({ for: "folder=Bookings" });
  });
});

describe("expressions as they are kept", () => {
  test.each([
    ["", ""],
    ["folder=Bookings", 'folder="The ""big"" one"'],
    ["!(folder=bookings|unread)", '!(folder="The ""big"" one"|unread)'],
    // Only what is named exactly is named: parts of names and words are not.
    ["folder~Bookings folderish=1", "folder~Bookings folderish=1"],
    ["folder=Elsewhere", "folder=Elsewhere"],
    ['"folder=Bookings" note~"folder=Bookings"', '"folder=Bookings" note~"folder=Bookings"'],
  ])("%j", (source, shown) => {
    const stored = JSON.parse(JSON.stringify(storeNarrow(source, idOf))) as StoredNarrow;
    expect(loadNarrow(stored, later)).toBe(shown);
  });
});
