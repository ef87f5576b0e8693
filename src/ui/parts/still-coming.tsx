import { useQuery } from "@tanstack/react-query";
import { accounts } from "../state/reads";
import { plural } from "./words";

/** Why what is exported has to wait: a file that is saved cannot say so. @param what is exported once texts are here */
export function StillComing({ what }: { readonly what: string }) {
  const { data = [] } = useQuery(accounts);
  const coming = data.reduce((sum, account) => sum + account.coming, 0);
  if (coming === 0) return null;
  return (
    <p className="mt-1 w-fit max-w-[48ch] rounded-sm bg-amber-soft px-2 py-1 text-[13px]">
      The texts of {plural(coming, "message")} are on their server still: {what} once they are here.
    </p>
  );
}
