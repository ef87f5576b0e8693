/** A window that is not drawn, such as a hidden one, gets its turn all the same. */
const LATEST_MS = 200;

let waiting: (() => void)[] = [];
let timer: ReturnType<typeof setTimeout> | undefined;

function flush(): void {
  clearTimeout(timer);
  const works = waiting;
  waiting = [];
  for (const work of works)
    try {
      work();
    } catch (error) {
      // One that fails keeps no other from its turn: a decision may wait behind it.
      reportError(error);
    }
}

/**
 * Does something once the frame that is being made has been painted, in the order asked for: the screen goes first.
 * @returns what gives it up, where it has not been done yet
 */
export function afterPaint(work: () => void): () => void {
  let isOver = false;
  waiting.push(() => {
    if (!isOver) work();
  });
  if (waiting.length === 1) flushAfterPaint();
  return () => {
    isOver = true;
  };
}

function flushAfterPaint(): void {
  timer = setTimeout(flush, LATEST_MS);
  requestAnimationFrame(() => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = flush;
    port2.postMessage(null);
  });
}

// A window that is closed before its next frame does at once what was to come after it.
if (typeof window !== "undefined") window.addEventListener("pagehide", flush);
