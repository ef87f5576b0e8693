import { pathProblemText, readPath } from "@/core/place";
import { Refusal } from "../run";

/** PostgreSQL's code for a value that must be unique and is not. */
const UNIQUE_VIOLATION = "23505";

export const isTaken = (error: unknown): boolean => {
  const { code, cause } = error as { code?: string; cause?: { code?: string } };
  return (cause ?? { code }).code === UNIQUE_VIOLATION;
};

/** Runs a write whose unique names may clash, and says so in words. */
export async function orTaken<T>(what: string, name: string, write: () => Promise<T>): Promise<T> {
  try {
    return await write();
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal(409, "The name is taken", `There is a ${what} "${name}" already. Choose another name.`);
  }
}

/** A name of a folder or label as it is stored. @throws Refusal with what is wrong with it */
export function cleanPath(path: string): string {
  const read = readPath(path);
  if (!read.ok) throw new Refusal(422, "Not a name", pathProblemText[read.problem]);
  return read.path;
}
