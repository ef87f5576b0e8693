import { upload } from "./api";
import { jobs, reads } from "./reads";
import { set, view } from "./store";

let under = 0;
const ask = (event: BeforeUnloadEvent): void => event.preventDefault();

/** While something is under way that a closed window would cut off, the browser asks before it closes. */
export async function keepOpen<T>(work: Promise<T>): Promise<T> {
  if (under++ === 0) window.addEventListener("beforeunload", ask);
  try {
    return await work;
  } finally {
    if (--under === 0) window.removeEventListener("beforeunload", ask);
  }
}

let line: Promise<void> = Promise.resolve();
let waiting = 0;

async function send(file: File, to: Parameters<typeof upload>[1]): Promise<void> {
  waiting--;
  const tell = (share: number) => set({ uploading: { name: file.name, share, waiting } });
  tell(0);
  try {
    await upload(file, to, tell);
  } catch (error) {
    const why = error instanceof Error ? error.message : "The file could not be sent.";
    set({ uploadTroubles: [...view().uploadTroubles, `${file.name}: ${why}`] });
  }
  if (waiting === 0) set({ uploading: null });
  await reads.invalidateQueries({ queryKey: jobs.queryKey });
}

/** Sends files of mail one after another, whatever screen is looked at meanwhile. */
export function sendMail(files: readonly File[], to: Parameters<typeof upload>[1]): void {
  const { uploading } = view();
  waiting += files.length;
  if (uploading === null) set({ uploadTroubles: [] });
  else set({ uploading: { ...uploading, waiting } });
  for (const file of files) line = keepOpen(line.then(() => send(file, to)));
}
