/**
 * Whole numbers as PostgreSQL writes an array: cast it from text. The driver's own arrays are escaped value by
 * value, which for ten thousand ids takes longer than the database needs to find them.
 */
export const listOf = (numbers: Iterable<number>): string => `{${[...numbers].join()}}`;

/**
 * The smallest and the largest. A condition that rows lie between them costs nothing and tells the planner how
 * much of the key to walk: messages of one place came in together, so their ids lie close, and one walk finds
 * ten thousand in a third of the time that as many look-ups take.
 */
export function boundsOf(numbers: Iterable<number>): [low: number, high: number] {
  let [low, high] = [Infinity, -Infinity];
  for (const n of numbers) {
    if (n < low) low = n;
    if (n > high) high = n;
  }
  return [low, high];
}
