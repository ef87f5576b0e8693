import type { PassShape } from "@/core/api";
import { countText } from "../parts/words";
import { forgetPass, goOn } from "../state/pass";
import { verdictsOf } from "../state/pass-view";
import { set, useView } from "../state/store";

interface Props {
  readonly pass: PassShape;
  readonly on: boolean;
  readonly onGo: () => void;
}

/** A pass that was left: how far it has come; a press goes on with it. */
export function WalkPlace({ pass, on, onGo }: Props) {
  const { name, length } = pass;
  // Of the one that is under way here the window knows more than what was read when it began.
  const walking = useView((v) => (v.pass?.id === pass.id ? v.pass : null));
  const decided = walking ? verdictsOf(walking).size : pass.decided;
  return (
    <li className="group relative">
      <button
        type="button"
        aria-current={on ? "page" : undefined}
        aria-label={`Pass of ${name}: ${countText(decided)} of ${countText(length)} decided`}
        onClick={() => {
          set({ rackOpen: false });
          if (!on) void goOn(pass);
          onGo();
        }}
        className={`grid w-full grid-cols-[minmax(0,1fr)_auto] items-center gap-x-2 px-3.5 py-1 text-left ${on ? "bg-sheet font-bold" : "hover:bg-paper"}`}
      >
        <span className="truncate">{name}</span>
        <span className="num text-xs font-normal text-ink-2">
          {countText(decided)}/{countText(length)}
        </span>
        <span className="col-span-2 mt-0.5 h-[3px] overflow-hidden rounded-[1px] bg-rule">
          <span className="block h-full bg-spruce" style={{ width: `${(100 * decided) / Math.max(1, length)}%` }} />
        </span>
      </button>
      {!on && (
        <button
          type="button"
          aria-label={`Forget the pass of ${name}`}
          title="Forget this pass; what was decided in it stays"
          onClick={() => void forgetPass(pass)}
          className="absolute top-1 right-1 hidden rounded-sm bg-paper px-1.5 text-ink-2 group-focus-within:block group-hover:block max-md:block"
        >
          ×
        </button>
      )}
    </li>
  );
}
