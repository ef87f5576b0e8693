/** What the web process does once, before it answers anybody (a convention of Next.js). */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== "nodejs") return;
  const { letGoWhenEnding, readyOrWhy } = await import("./app/api/http/ending");
  const { keepOnUnheard, serveWatchAsAsked } = await import("./server/act");
  letGoWhenEnding();
  keepOnUnheard();
  serveWatchAsAsked(readyOrWhy);
}
