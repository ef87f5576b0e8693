import { collectDefaultMetrics, Counter, Gauge, Histogram, register } from "prom-client";

/**
 * Figures of a process as Prometheus reads them. Nobody is named in them, and nothing of their mail: routes are as the
 * API's description has them, work is by its name.
 */

/** Routes may be bundled apart from each other: what is there already is taken. */
const once = <T>(name: string, make: () => T): T => (register.getSingleMetric(name) as T | undefined) ?? make();

const SECONDS = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30];

const requests = once(
  "tachyne_request_seconds",
  () =>
    new Histogram({
      name: "tachyne_request_seconds",
      help: "Time until the answer to a request began",
      labelNames: ["method", "route", "status"],
      buckets: SECONDS,
    }),
);
const streams = once(
  "tachyne_event_streams",
  () => new Gauge({ name: "tachyne_event_streams", help: "Windows that are told of what happens" }),
);
const work = once(
  "tachyne_work_seconds",
  () =>
    new Histogram({
      name: "tachyne_work_seconds",
      help: "Time of one look at a kind of work, and what it found done",
      labelNames: ["work"],
      buckets: SECONDS,
    }),
);
const failures = once(
  "tachyne_work_failures_total",
  () =>
    new Counter({
      name: "tachyne_work_failures_total",
      help: "Looks at a kind of work that failed",
      labelNames: ["work"],
    }),
);

export function noteRequest(method: string, route: string, status: number, seconds: number): void {
  requests.observe({ method, route, status: String(status) }, seconds);
}

/** @returns told when the stream is over */
export function noteStream(): () => void {
  streams.inc();
  return () => streams.dec();
}

export async function noteWork<T>(name: string, act: () => Promise<T>): Promise<T> {
  const end = work.startTimer({ work: name });
  try {
    return await act();
  } catch (error) {
    failures.inc({ work: name });
    throw error;
  } finally {
    end();
  }
}

/** What waits, read when it is asked for: by the process that is to do it. */
export function watchWaiting(read: () => Promise<Readonly<Record<string, number>>>): void {
  once(
    "tachyne_waiting",
    () =>
      new Gauge({
        name: "tachyne_waiting",
        help: "Letters to send, imports to do, accounts that cannot be asked",
        labelNames: ["what"],
        async collect() {
          for (const [what, count] of Object.entries(await read())) this.set({ what }, count);
        },
      }),
  );
}

/** Memory, processor and event loop too. @returns Prometheus' text format, version 0.0.4 */
export function readMetrics(): Promise<string> {
  if (!register.getSingleMetric("process_start_time_seconds")) collectDefaultMetrics();
  return register.metrics();
}
export const METRICS_TYPE = register.contentType;
