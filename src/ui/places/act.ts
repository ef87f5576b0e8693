import { write } from "../state/api";
import { inLine, refreshSettings } from "../state/settings";
import { notify } from "../state/store";

/**
 * Sends a change of places, and says what came of it.
 * @returns whether it was done
 */
export async function change(
  method: "POST" | "PATCH" | "DELETE",
  path: string,
  body: unknown,
  done: string,
): Promise<boolean> {
  try {
    await inLine(() => write(method, path, body));
    await refreshSettings();
    notify(done);
    return true;
  } catch (error) {
    notify(error instanceof Error ? error.message : "It could not be stored. Try again.", "trouble");
    return false;
  }
}
