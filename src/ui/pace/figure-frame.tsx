import type { ReactNode } from "react";
import type { Figure } from "./figures";

interface FrameProps {
  readonly figure: Figure;
  readonly focused: boolean;
  readonly asTable: boolean;
  /** Whether there is a chart beside the table. */
  readonly hasChart: boolean;
  /** The point that is looked at; null for none. */
  readonly at: number | null;
  readonly csv: string;
  readonly onFocus: () => void;
  readonly onTable: () => void;
  readonly onOpen: (at: number) => void;
  readonly onPoint: (at: number) => void;
  readonly children: ReactNode;
}

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 text-xs leading-5 max-md:leading-7";

/** A figure as a chart or as its table, with what the point that is looked at says. */
export function FigureFrame({
  figure,
  focused,
  asTable,
  hasChart,
  at,
  csv,
  onFocus,
  onTable,
  onOpen,
  onPoint,
  children,
}: FrameProps) {
  const point = at === null ? undefined : figure.points[at];
  const canOpen = point && (point.narrow !== null || (point.macro ?? null) !== null);
  return (
    <section
      aria-labelledby={`figure-${figure.id}`}
      data-figure={figure.id}
      data-focused={focused || undefined}
      onPointerDown={onFocus}
      className={`relative flex min-w-0 flex-col gap-1 border-b border-rule px-3 py-2 ${focused ? "outline-2 -outline-offset-2 outline-ink" : ""}`}
    >
      <div className="flex flex-wrap items-baseline gap-x-2">
        <h2 id={`figure-${figure.id}`} className="font-bold">
          {figure.title}
        </h2>
        <p className="min-w-0 flex-1 text-[13px] text-ink-2 max-md:order-last max-md:basis-full">{figure.says}</p>
        {hasChart && (
          <button type="button" aria-pressed={asTable} onClick={onTable} className={BUTTON}>
            {asTable ? "As a chart" : "As a table"}
          </button>
        )}
        <a href={csv} download className={BUTTON}>
          CSV
        </a>
      </div>
      {asTable ? <FigureTable figure={figure} at={at} onOpen={onOpen} onPoint={onPoint} /> : children}
      <p aria-live={focused ? "polite" : "off"} className="min-h-5 text-[13px]" data-testid={`point-${figure.id}`}>
        {point && focused && (
          <>
            <span className="font-semibold">{point.name}</span>:{" "}
            {point.values.map((value, i) => `${figure.head[i + 1]} ${value}`).join(", ")}
            {canOpen && (
              <button type="button" onClick={() => onOpen(at!)} className={`${BUTTON} ml-2`}>
                {point.narrow === null ? "Its runs" : "This mail"} <kbd className="max-md:hidden">Enter</kbd>
              </button>
            )}
          </>
        )}
      </p>
    </section>
  );
}

type TableProps = Pick<FrameProps, "figure" | "at" | "onOpen" | "onPoint">;

export function FigureTable({ figure, at, onOpen, onPoint }: TableProps) {
  return (
    <div role="group" tabIndex={0} aria-label={`${figure.title}, as a table`} className="max-h-[210px] overflow-auto">
      <table className="w-full text-[13px]" aria-label={figure.title}>
        <thead className="sticky top-0 bg-well text-xs text-ink-2">
          <tr>
            {figure.head.map((name, i) => (
              <th key={name} className={`px-1.5 py-0.5 font-semibold ${i === 0 ? "text-left" : "text-right"}`}>
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {figure.points.map(({ key, name, values }, i) => (
            <tr
              key={key}
              data-here={i === at || undefined}
              onClick={() => onPoint(i)}
              onDoubleClick={() => onOpen(i)}
              className={`border-b border-rule-soft ${i === at ? "bg-spruce-soft" : ""}`}
            >
              <th scope="row" className="max-w-[220px] truncate px-1.5 py-0.5 text-left font-normal">
                {name}
              </th>
              {values.map((value, column) => (
                <td key={figure.head[column + 1]} className="px-1.5 text-right whitespace-nowrap tabular-nums">
                  {value}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
