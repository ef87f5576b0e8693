import { connect, createServer, type Server } from "node:net";

export interface Proxy {
  readonly port: number;
  readonly close: () => void;
}

const connected = (port: number) =>
  new Promise<ReturnType<typeof connect> | null>((resolve) => {
    const socket = connect(port, "127.0.0.1");
    socket.once("connect", () => resolve(socket));
    socket.once("error", () => resolve(null));
  });

/** A plain proxy: each connection goes to the next server of those that can be reached, and ends with it. */
export async function proxyTo(ports: readonly number[]): Promise<Proxy> {
  let turn = 0;
  const server: Server = createServer((client) => {
    client.on("error", () => client.destroy());
    void (async () => {
      for (let tried = 0; tried < ports.length; tried++) {
        const behind = await connected(ports[turn++ % ports.length]!);
        if (!behind) continue;
        behind.on("error", () => client.destroy());
        behind.on("close", () => client.destroy());
        client.on("close", () => behind.destroy());
        client.pipe(behind).pipe(client);
        return;
      }
      client.destroy();
    })();
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const sockets = new Set<{ destroy: () => void }>();
  server.on("connection", (socket) => sockets.add(socket));
  const { port } = server.address() as { port: number };
  const close = () => {
    server.close();
    for (const socket of sockets) socket.destroy();
  };
  return { port, close };
}
