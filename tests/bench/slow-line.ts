import { connect, createServer, type Socket } from "node:net";

/** A line as accounts have it: a server that is not on this machine, behind a rate and a way. */

const BYTES_PER_MS = 2500;
const WAY_MS = 20;
/** So much may be on its way at a time; then whoever sends waits, as with any line. */
const MOST_AHEAD_MS = 200;
export const SLOW = "20 Mbit/s, 40 ms there and back";

function pass(from: Socket, to: Socket): void {
  let freeAt = 0;
  // One after the other: two timers of nearly the same time may go off in any order.
  let last: Promise<void> = Promise.resolve();
  const reaches = async (before: Promise<void>, at: number, act: () => void): Promise<void> => {
    await new Promise((done) => setTimeout(done, at - performance.now()));
    await before;
    act();
  };
  from.on("data", (chunk) => {
    const now = performance.now();
    freeAt = Math.max(freeAt, now) + chunk.length / BYTES_PER_MS;
    last = reaches(last, freeAt + WAY_MS, () => to.destroyed || to.write(chunk));
    if (freeAt - now < MOST_AHEAD_MS) return;
    from.pause();
    setTimeout(() => from.resume(), freeAt - now - MOST_AHEAD_MS / 2);
  });
  from.on("close", () => (last = reaches(last, freeAt + WAY_MS, () => to.destroy())));
  from.on("error", () => to.destroy());
}

/** @param to a port on loopback @returns a port that leads there over the line */
export async function slowLine(to: number): Promise<{ readonly port: number; readonly end: () => void }> {
  const open = new Set<Socket>();
  const server = createServer((near) => {
    const far = connect({ host: "127.0.0.1", port: to });
    open.add(near).add(far);
    pass(near, far);
    pass(far, near);
  });
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  return {
    port: (server.address() as { port: number }).port,
    end: () => {
      for (const socket of open) socket.destroy();
      server.close();
    },
  };
}
