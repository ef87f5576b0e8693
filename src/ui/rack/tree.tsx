import { Fragment, useState, type ReactNode } from "react";

/** Things with paths as a tree: those below a folded one are not shown. What is folded is kept in the browser. */

const parentOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf("/")));

function kept(key: string): ReadonlySet<string> {
  try {
    const paths: unknown = JSON.parse(localStorage.getItem(key) ?? "[]");
    return new Set(Array.isArray(paths) ? (paths as string[]) : []);
  } catch {
    return new Set();
  }
}

export interface Branch {
  readonly depth: number;
  readonly name: string;
  readonly title: string;
  /** For what has others beneath: whether those are shown, and how to change that. */
  readonly open?: boolean;
  readonly onToggle?: () => void;
}

export function Tree<T>({
  kind,
  things,
  pathOf,
  item,
}: {
  /** Under which name it is kept what is folded. */
  readonly kind: string;
  readonly things: readonly T[];
  readonly pathOf: (thing: T) => string;
  readonly item: (thing: T, branch: Branch) => ReactNode;
}) {
  const key = `tachyne-folded-${kind}`;
  const [folded, setFolded] = useState(() => kept(key));
  const paths = new Set(things.map(pathOf));
  const isHidden = (path: string): boolean => {
    const parent = parentOf(path);
    return parent !== "" && ((paths.has(parent) && folded.has(parent)) || isHidden(parent));
  };
  const toggle = (path: string) => {
    const next = new Set(folded);
    if (!next.delete(path)) next.add(path);
    setFolded(next);
    localStorage.setItem(key, JSON.stringify([...next]));
  };
  // One whose parent is none of its own kind is shown by its whole path.
  const depthOf = (path: string): number => (paths.has(parentOf(path)) ? 1 + depthOf(parentOf(path)) : 0);
  return [...things]
    .filter((thing) => !isHidden(pathOf(thing)))
    .sort((a, b) => pathOf(a).localeCompare(pathOf(b)))
    .map((thing) => {
      const path = pathOf(thing);
      const has = things.some((other) => parentOf(pathOf(other)) === path);
      const depth = depthOf(path);
      const branch: Branch = {
        depth,
        name: depth > 0 ? path.split("/").at(-1)! : path,
        title: path,
        ...(has ? { open: !folded.has(path), onToggle: () => toggle(path) } : {}),
      };
      return <Fragment key={path}>{item(thing, branch)}</Fragment>;
    });
}
