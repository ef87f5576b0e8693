/**
 * Folders of mail as files: a Maildir, in which each message is a file of "cur" or "new" and its flags stand in the
 * file's name, with subfolders as directories that begin with a dot or not; else files of mail in directories.
 */

export interface MailFile {
  /** What the directories say, segments joined by "/"; "" for the place that all of it goes to. */
  readonly folder: string;
  readonly kind: "message" | "mbox";
  /** null where the name says nothing of it. */
  readonly flags: MailFlags | null;
}

export interface MailFlags {
  readonly read: boolean;
  readonly flagged: boolean;
  readonly answered: boolean;
}

/** Beside mail: what servers and systems keep for themselves. */
const OTHER = /(^|\/)(\._[^/]*|\.DS_Store|Thumbs\.db|dovecot[^/]*|maildirfolder|subscriptions|courierimap[^/]*)$/i;
/** ":2," and then letters; ";" or "!" or "_" where a file system takes no colon. */
const INFO = /[:;!_]2,([A-Za-z]*)$/;

const isDeleted = (letters: string): boolean => letters.includes("T");

/** "Wardens.Rota" below a directory that begins with a dot is "Wardens/Rota"; other directories are as they are. */
const segments = (directory: string): string[] =>
  directory.startsWith(".") ? directory.split(".").filter(Boolean) : [directory];

/**
 * What a file of an archive is, by its path in it.
 * @returns null for what is no mail, and for what was deleted there
 */
export function mailFileOf(path: string): MailFile | null {
  const parts = path
    .replaceAll("\\", "/")
    .split("/")
    .filter((part) => part !== "" && part !== ".");
  const file = parts.pop();
  if (file === undefined || path.endsWith("/") || OTHER.test(path) || parts.includes("__MACOSX")) return null;
  const box = parts.at(-1);
  if (box === "tmp" && !/\.(eml|mbox|mbx)$/i.test(file)) return null;
  if (box === "cur" || box === "new") {
    const letters = INFO.exec(file)?.[1] ?? "";
    if (isDeleted(letters)) return null;
    const flags = {
      read: letters.includes("S"),
      flagged: letters.includes("F"),
      answered: letters.includes("R"),
    };
    return { folder: parts.slice(0, -1).flatMap(segments).join("/"), kind: "message", flags };
  }
  const known = /^(.*)\.(eml|mbox|mbx)$/i.exec(file);
  if (!known) return null;
  const [, stem, ending] = known;
  if (ending!.toLowerCase() === "eml") return { folder: parts.join("/"), kind: "message", flags: null };
  return { folder: [...parts, stem!].join("/"), kind: "mbox", flags: null };
}

/** A directory that all files are in is what was packed, and no folder. */
export function withoutTop(files: readonly MailFile[]): MailFile[] {
  const [first] = files;
  const top = first?.folder.split("/")[0];
  const within = (folder: string) => folder === top || folder.startsWith(`${top}/`);
  // A lone file of mail is a folder by its name, whatever it was packed with.
  if (!top || !files.every(({ folder }) => within(folder)) || files.every(({ kind }) => kind === "mbox"))
    return [...files];
  return files.map((file) => ({ ...file, folder: file.folder.slice(top.length + 1) }));
}
