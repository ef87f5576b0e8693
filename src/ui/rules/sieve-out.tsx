import { useQuery } from "@tanstack/react-query";
import { Modal } from "../parts/picker";
import { sieveScript } from "../state/reads";
import { notify } from "../state/store";

const BUTTON = "rounded-sm border border-edge bg-sheet px-3 py-1 text-[13px] disabled:opacity-40";

function save(script: string): void {
  const address = URL.createObjectURL(new Blob([script], { type: "application/sieve" }));
  const link = document.createElement("a");
  link.href = address;
  link.download = "rules.sieve";
  link.click();
  URL.revokeObjectURL(address);
}

/** The rules that are on as a script, with what of them it does not say, or not quite. */
export function SieveOut({ onClose }: { readonly onClose: () => void }) {
  const { data, error, refetch } = useQuery(sieveScript);
  const copy = (script: string) =>
    navigator.clipboard.writeText(script).then(
      () => notify("Copied the script."),
      () => notify("The browser does not let it be copied: save it, or select it by hand.", "trouble"),
    );
  return (
    <Modal title="These rules as a script" onClose={onClose} wide>
      <div className="flex max-h-[75vh] flex-col gap-2.5 overflow-y-auto p-4 text-[13px]">
        {error && (
          <p role="alert" className="rounded-sm bg-brick-soft px-3 py-2">
            {error.message}{" "}
            <button type="button" onClick={() => void refetch()} className="underline">
              Read again
            </button>
          </p>
        )}
        {!data && !error && <p role="status">Writing the script…</p>}
        {data && (
          <>
            <textarea
              readOnly
              aria-label="The script"
              value={data.script}
              spellCheck={false}
              className="h-48 w-full md:h-64 shrink-0 resize-y rounded-sm border border-edge bg-well p-2 font-mono text-[12.5px]"
            />
            {data.notes.length > 0 && (
              <ul aria-label="What it does not say" className="grid gap-1">
                {data.notes.map(({ rule, left, near }) => (
                  <li key={rule} className="grid grid-cols-[64px_minmax(0,1fr)] border-t border-rule-soft pt-1">
                    <span className="num text-ink-2">Rule {rule}</span>
                    <span>
                      {left !== null && <b className="font-bold">Left out. {left} </b>}
                      <span className="text-ink-2">{near.join(" ")}</span>
                    </span>
                  </li>
                ))}
              </ul>
            )}
            <p className="text-ink-2">
              For mail as it comes in, on a server that knows Sieve (RFC 5228). Rules that are on there and here are
              done twice: switch off here what the server does.
            </p>
            <div className="flex flex-wrap gap-2">
              <button type="button" onClick={() => void copy(data.script)} className={BUTTON}>
                Copy it
              </button>
              <button type="button" onClick={() => save(data.script)} className={BUTTON}>
                Save it as a file
              </button>
            </div>
          </>
        )}
      </div>
    </Modal>
  );
}
