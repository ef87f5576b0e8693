import { readFile } from "node:fs/promises";
import { join } from "node:path";

/** Made by the build, once it is known which files a window may ask for. */
const FILE = join(process.cwd(), "dist", "service-worker.js");

/** The worker that opens the app without a connection. Browsers look for a newer one at each visit. */
export async function GET(): Promise<Response> {
  const headers = { "content-type": "text/javascript; charset=utf-8", "cache-control": "no-cache" };
  return new Response(await readFile(FILE, "utf8"), { headers });
}
export const dynamic = "force-dynamic";
