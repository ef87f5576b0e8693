interface Props {
  readonly onReload: () => void;
  /** The letter as it is here becomes a draft of its own. */
  readonly onKeep: () => void;
}

const BUTTON = "rounded-sm border border-edge bg-sheet px-2.5 py-1 text-[13px]";

/** Said over a draft that another window has changed. */
export function Elsewhere({ onReload, onKeep }: Props) {
  return (
    <div role="alert" className="my-1 flex flex-wrap items-center gap-2 rounded-sm bg-amber-soft px-2 py-1 text-[13px]">
      Another window has changed this draft. Nothing here is stored any more.
      <button type="button" className={BUTTON} onClick={onReload}>
        Show what is there
      </button>
      <button type="button" className={BUTTON} onClick={onKeep}>
        Keep this one beside it
      </button>
    </div>
  );
}
