import { offsetIn, textOf, type Component } from "../../mail/calendar";
import { isZone, wallAt } from "../wall";

/** Zones as calendars name them, as the platform knows them. */

export interface FoundZone {
  /** IANA name; "" for the person's. */
  readonly zone: string;
  /** What was taken for what, in words; null where the name is known. */
  readonly said: string | null;
}

/** "/some.where/Europe/Zurich" ends in the name of a zone. */
function known(name: string): string | null {
  const parts = name.split("/").filter((part) => part !== "");
  for (let from = 0; from < parts.length; from++) {
    const tail = parts.slice(from).join("/");
    if (isZone(tail)) return tail;
  }
  return null;
}

const MONTHS = 24;

/** The zone of the platform whose clocks show the same as a described one's, the person's first. */
function alike(described: Component, home: string, year: number): string | null {
  const offset = offsetIn(described);
  if (!offset) return null;
  const walls = Array.from({ length: MONTHS }, (_, month) => Date.UTC(year, month, 15, 12));
  const isAlike = (zone: string) =>
    walls.every((wall) => {
      const by = offset(wall);
      return wallAt(zone, wall - by) === wall;
    });
  return [home, "UTC", ...Intl.supportedValuesOf("timeZone")].find((zone) => zone !== "" && isAlike(zone)) ?? null;
}

/** Finds zones by their names, each looked for once. @param home the person's zone */
export function zoneFinder(components: readonly Component[], home: string): (name: string, year: number) => FoundZone {
  const described = new Map(
    components.filter(({ name }) => name === "VTIMEZONE").map((zone) => [textOf(zone, "TZID"), zone]),
  );
  const found = new Map<string, FoundZone>();
  return (name, year) => {
    let one = found.get(name);
    if (!one) {
      const zone = described.get(name);
      const same = known(name) ?? null;
      const other = same === null && zone ? alike(zone, home, year) : null;
      if (same !== null) one = { zone: same, said: null };
      else if (other !== null)
        one = { zone: other, said: `the zone "${name}" is taken for ${other}, whose clocks show the same` };
      else one = { zone: "", said: `the zone "${name}" is not known: its times are taken as your own clock's` };
      found.set(name, one);
    }
    return one;
  };
}
