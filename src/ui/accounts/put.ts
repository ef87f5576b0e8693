import { write } from "../state/api";
import { accounts, reads } from "../state/reads";
import { notify } from "../state/store";

/** Changes something about an account, and says that it is done, or why not. */
export async function put(
  method: "POST" | "PATCH" | "DELETE",
  path: string,
  body: object | undefined,
  done: string,
): Promise<void> {
  try {
    await write(method, path, body);
    notify(done);
  } catch (error) {
    notify(error instanceof Error ? error.message : "It could not be done. Try again.", "trouble");
  }
  await reads.invalidateQueries(accounts);
}
