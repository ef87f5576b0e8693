import { describe, expect, test } from "vitest";
import {
  COLOURS,
  findNames,
  folderFor,
  folderNamed,
  labelNamed,
  markerNamed,
  MARKER_SETS,
  MOST_MARKERS,
  readPath,
  type Directory,
} from ".";
import { folderId, labelId, markerId } from "../id";

const directory: Directory = {
  folders: [
    { id: folderId(1), path: "bookings", role: null },
    { id: folderId(2), path: "Bookings", role: null },
    { id: folderId(3), path: "Post", role: "inbox" },
    { id: folderId(4), path: "Away", role: "archive" },
  ],
  labels: [{ id: labelId(1), name: "Winter Season", colour: "slate" }],
  markers: [
    { id: markerId(1), letter: "W", colour: "plum", meaning: "waiting", used: true },
    { id: markerId(2), letter: "É", colour: "amber", meaning: "", used: false },
  ],
};

describe("names", () => {
  test("as they are written first, then in any case, blanks around them aside", () => {
    expect(folderNamed(directory, "Bookings")?.id).toBe(2);
    expect(folderNamed(directory, " bookings ")?.id).toBe(1);
    expect(folderNamed(directory, "BOOKINGS")?.id).toBe(1);
    expect(folderNamed(directory, "Booking")).toBeUndefined();
    expect(labelNamed(directory, "winter season\n")?.id).toBe(1);
    expect(labelNamed(directory, "wintery season")).toBeUndefined();
    expect(markerNamed(directory, " é")?.id).toBe(2);
    expect(markerNamed(directory, "X")).toBeUndefined();
  });
  test("what a folder is for goes by its role, not its name", () => {
    expect(folderFor(directory, "inbox")?.path).toBe("Post");
    expect(folderFor(directory, "archive")?.path).toBe("Away");
    expect(folderFor(directory, "trash")).toBeUndefined();
  });
});

describe("a path", () => {
  test.each([
    ["Bookings", "Bookings"],
    ["  Bookings / Groups ", "Bookings/Groups"],
    ["Ae\u0301", "Aé"],
    ["x".repeat(200), "x".repeat(200)],
    [` ${"x".repeat(200)} `, "x".repeat(200)],
    ["a b/c\u00a0d", "a b/c\u00a0d"],
  ])("%j is kept as %j", (raw, path) => {
    expect(readPath(raw)).toEqual({ ok: true, path });
  });
  test.each([
    ["", "empty"],
    [" \t ", "empty"],
    ["x".repeat(201), "too-long"],
    ["a//b", "empty-segment"],
    ["a/ /b", "empty-segment"],
    ["/a", "empty-segment"],
    ["a/", "empty-segment"],
    ["a\u0007b", "control-character"],
    ["a\nb", "control-character"],
  ])("%j is refused: %s", (raw, problem) => {
    expect(readPath(raw)).toEqual({ ok: false, problem });
  });
});

describe("finding by typed words", () => {
  const names = ["Lost property", "Bookings/Groups", "Group ends", "Subgroups", "Post", "A.b/group-rate"];
  const find = (typed: string) => findNames(names, (name) => name, typed);
  test("the name's beginning, then a word's, then any part; equal ones in their order", () => {
    expect(find("group")).toEqual(["Group ends", "Bookings/Groups", "A.b/group-rate", "Subgroups"]);
    expect(find("GROUP")).toEqual(find("group"));
    expect(find("prop")).toEqual(["Lost property"]);
    expect(find("s")).toEqual(["Subgroups", "Lost property", "Bookings/Groups", "Group ends", "Post"]);
  });
  test("a word's beginning counts wherever it stands in the name", () => {
    expect(findNames(["xgroup", "xgroup group"], (name) => name, "group")).toEqual(["xgroup group", "xgroup"]);
    expect(findNames(["9group", "égroup", "- group"], (name) => name, "group")[0]).toBe("- group");
  });
  test("all words must be there, in any order; the worst of them tells the rank", () => {
    expect(find("groups book")).toEqual(["Bookings/Groups"]);
    expect(find("groups lost")).toEqual([]);
    expect(findNames(["ab xcd", "ab cd", "cd ab"], (name) => name, "ab cd")).toEqual(["ab cd", "cd ab", "ab xcd"]);
  });
  test("nothing typed leaves everything; what means something in patterns is text", () => {
    expect(find("  ")).toEqual(names);
    expect(find(".b")).toEqual(["A.b/group-rate"]);
    expect(find("(")).toEqual([]);
  });
});

test("the sets of markers offered fit what a marker may be", () => {
  for (const { markers } of MARKER_SETS) {
    expect(markers.length).toBeLessThanOrEqual(MOST_MARKERS);
    expect(new Set(markers.map(([letter]) => letter)).size).toBe(markers.length);
    for (const [letter, colour, meaning] of markers) {
      expect(letter).toMatch(/^\p{Lu}$/u);
      expect(COLOURS).toContain(colour);
      expect(meaning).not.toBe("");
    }
  }
});
