/**
 * Work on large calendars is done in steps of a few entries: who does it decides whether it is done at once, or in
 * turns with something else.
 */
export type Steps<T> = Generator<undefined, T>;

export function atOnce<T>(steps: Steps<T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
