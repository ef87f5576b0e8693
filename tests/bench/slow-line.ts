import { connect, createServer } from "node:net";
import { setTimeout as pause } from "node:timers/promises";

/** A line as people have it at home, to a server on loopback: so many bits a second, so late. */
export interface SlowLine {
  readonly port: number;
  readonly end: () => Promise<void>;
}

/** Pieces small enough for the pace to be even. */
const PIECE_BYTES = 16 * 1024;

/** @param bits a second towards here @param lateMs until something that is said is heard on the other side */
export async function startSlowLine(to: number, bits: number, lateMs: number): Promise<SlowLine> {
  const server = createServer((near) => {
    const far = connect({ host: "127.0.0.1", port: to });
    for (const socket of [near, far]) socket.on("error", () => (near.destroy(), far.destroy()));
    near.on("data", (said) => void pause(lateMs).then(() => far.write(said)));
    near.on("close", () => far.destroy());
    let free = performance.now();
    const come = async () => {
      for await (const said of far as AsyncIterable<Buffer>)
        for (let at = 0; at < said.length; at += PIECE_BYTES) {
          const piece = said.subarray(at, at + PIECE_BYTES);
          free = Math.max(free, performance.now()) + (piece.length * 8000) / bits;
          const waits = free - performance.now();
          if (waits > 1) await pause(waits);
          void pause(lateMs).then(() => near.write(piece));
        }
    };
    void come().catch(() => near.destroy());
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return {
    port: (server.address() as { port: number }).port,
    end: () => new Promise((resolve) => server.close(() => resolve())),
  };
}
