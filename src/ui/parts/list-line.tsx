import { useInSight } from "./focus-in";

interface Props {
  readonly title: string;
  readonly under: string;
  readonly isCurrent: boolean;
  readonly onChoose: () => void;
}

/** One of a list beside what is shown of it. */
export function ListLine({ title, under, isCurrent, onChoose }: Props) {
  const line = useInSight<HTMLLIElement>(isCurrent);
  return (
    <li ref={line}>
      <button
        type="button"
        aria-current={isCurrent}
        onClick={({ detail, currentTarget }) => {
          // Chosen by a hand it does not keep the keys: Space means what is shown, not this line again.
          if (detail > 0) currentTarget.blur();
          onChoose();
        }}
        className={`block w-full px-3.5 py-1 text-left ${isCurrent ? "bg-spruce-soft" : ""}`}
      >
        <span className="block truncate text-[13.5px] font-semibold">{title}</span>
        {under !== "" && <span className="block truncate text-xs text-ink-2">{under}</span>}
      </button>
    </li>
  );
}
