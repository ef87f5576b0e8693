import type { RemoteFolderShape } from "@/core/api";
import { countText } from "../parts/words";

interface Props {
  readonly folders: readonly RemoteFolderShape[];
  /** Paths of those that are left alone. */
  readonly without: readonly string[];
  readonly onChange: (without: readonly string[]) => void;
}

/** Which folders of a server are wanted here. The inbox always is. */
export function FolderChoice({ folders, without, onChange }: Props) {
  const others = folders.filter(({ place }) => place !== "Inbox");
  const left = new Set(without);
  const wanted = others.filter(({ path }) => !left.has(path)).length;
  const toggle = (path: string) =>
    onChange(left.has(path) ? without.filter((one) => one !== path) : [...without, path]);
  return (
    <fieldset className="grid gap-1">
      <legend className="pb-1">
        Folders that come in: the inbox, and {wanted === others.length ? "all" : countText(wanted)} of{" "}
        {countText(others.length)} others
      </legend>
      <ul className="max-h-52 overflow-y-auto border-y border-rule py-1">
        {others.map(({ path, place, messages }) => (
          <li key={path}>
            <label className="flex items-center gap-2 py-0.5 max-md:py-2">
              <input type="checkbox" checked={!left.has(path)} onChange={() => toggle(path)} />
              <span className="min-w-0 flex-1 truncate">{place}</span>
              <span className="num pr-2 text-ink-2">{countText(messages)}</span>
            </label>
          </li>
        ))}
      </ul>
      <p className="text-ink-2">The others stay on the server as they are, and are not looked into.</p>
    </fieldset>
  );
}
