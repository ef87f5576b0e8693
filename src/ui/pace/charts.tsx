import {
  Area,
  AreaChart,
  Bar,
  BarChart,
  CartesianGrid,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from "recharts";
import type { PaceShape, PaceSourceShape } from "@/core/api";
import { countText } from "../parts/words";
import { LAYERS } from "./figures";
import { lengthText, shortDay } from "./words";

/** Charts of what the tables beside them say in figures: hatches and outlines tell apart what colours do. */

const HEIGHT = 168;
const TICK = { fontSize: 11, fill: "var(--ink)" } as const;
const MARGIN = { top: 6, right: 8, bottom: 0, left: 0 } as const;

const PAPERS = ["var(--spruce-soft)", "var(--spruce)", "var(--slate-soft)", "var(--amber-soft)", "var(--brick)"];
/** Turned by so much, lines of a hatch; none where the colour is plain. */
const HATCHES: readonly (number | null)[] = [null, null, 45, -45, 0];
const hatchId = (layer: number) => `pace-hatch-${layer}`;
const fillOf = (layer: number): string => (HATCHES[layer] === null ? PAPERS[layer]! : `url(#${hatchId(layer)})`);

function Hatches() {
  return (
    <defs>
      {HATCHES.map((turn, layer) =>
        turn === null ? null : (
          <pattern
            key={layer}
            id={hatchId(layer)}
            width={5}
            height={5}
            patternUnits="userSpaceOnUse"
            patternTransform={`rotate(${turn})`}
          >
            <rect width={5} height={5} fill={PAPERS[layer]} />
            <line
              x1={0}
              y1={0}
              x2={0}
              y2={5}
              stroke={layer === 4 ? "var(--sheet)" : "var(--ink-2)"}
              strokeWidth={1.2}
            />
          </pattern>
        ),
      )}
    </defs>
  );
}

interface LegendEntry {
  readonly name: string;
  readonly fill: string;
}

export function Legend({ entries }: { readonly entries: readonly LegendEntry[] }) {
  return (
    <p aria-hidden className="flex flex-wrap gap-x-3 gap-y-0.5 px-1 text-xs text-ink-2">
      {entries.map(({ name, fill }) => (
        <span key={name} className="flex items-center gap-1">
          <svg width={12} height={12}>
            <rect x={0.5} y={0.5} width={11} height={11} fill={fill} stroke="var(--edge)" />
          </svg>
          {name}
        </span>
      ))}
    </p>
  );
}

interface ChartProps {
  readonly pace: PaceShape;
  /** The point that is looked at; null for none. */
  readonly at: number | null;
  readonly onPoint: (at: number) => void;
}

/** What a press on a chart says of where it was. */
const pressed =
  (onPoint: (at: number) => void) =>
  ({ activeTooltipIndex }: { readonly activeTooltipIndex?: number | string | null | undefined }) => {
    const at = Number(activeTooltipIndex ?? NaN);
    if (Number.isInteger(at)) onPoint(at);
  };

const axes = [
  <CartesianGrid key="grid" vertical={false} stroke="var(--rule-soft)" />,
  <YAxis
    key="y"
    width={44}
    allowDecimals={false}
    tickFormatter={(n: number) => countText(n)}
    tick={TICK}
    stroke="var(--edge)"
  />,
];

const layerOf = (layer: number) =>
  ({
    dataKey: `l${layer}`,
    stackId: "all",
    fill: fillOf(layer),
    fillOpacity: 1,
    stroke: "var(--edge)",
    strokeWidth: 0.8,
    isAnimationActive: false,
  }) as const;

/** Of so many days each has a bar of its own; of more, bars are too thin for their hatches. */
const MOST_BARS = 31;
const OLDEST_FIRST = [4, 3, 2, 1, 0];

export function BacklogChart({ pace, at, onPoint }: ChartProps) {
  const data = pace.backlog.map(({ day, layers }) => ({
    day,
    ...Object.fromEntries(layers.map((n, i) => [`l${i}`, n])),
  }));
  const here = at === null ? undefined : data[at];
  const chart = { data, margin: MARGIN, accessibilityLayer: false, onClick: pressed(onPoint) };
  const inside = [
    <Hatches key="hatches" />,
    ...axes,
    <XAxis key="x" dataKey="day" tickFormatter={shortDay} tick={TICK} stroke="var(--edge)" minTickGap={24} />,
  ];
  const mark = here && <ReferenceLine x={here.day} stroke="var(--ink)" strokeWidth={2} />;
  return (
    <>
      <div aria-hidden style={{ height: HEIGHT }}>
        <ResponsiveContainer width="100%" height="100%">
          {data.length > MOST_BARS ? (
            <AreaChart {...chart}>
              {inside}
              {OLDEST_FIRST.map((layer) => (
                <Area key={layer} type="step" activeDot={false} {...layerOf(layer)} />
              ))}
              {mark}
            </AreaChart>
          ) : (
            <BarChart {...chart} barCategoryGap={1}>
              {inside}
              {OLDEST_FIRST.map((layer) => (
                <Bar key={layer} {...layerOf(layer)} />
              ))}
              {mark}
            </BarChart>
          )}
        </ResponsiveContainer>
      </div>
      <Legend entries={LAYERS.map((name, layer) => ({ name, fill: fillOf(layer) }))} />
      {/* A legend's squares have no drawing of their own to take hatches from. */}
      <svg width={0} height={0} className="absolute" aria-hidden>
        <Hatches />
      </svg>
    </>
  );
}

export function FlowChart({ pace, at, onPoint }: ChartProps) {
  const data = [...pace.flow];
  const here = at === null ? undefined : data[at];
  const tick = (step: string) => (pace.by === "hour" ? `${step.slice(11)}:00` : shortDay(step));
  return (
    <>
      <div aria-hidden style={{ height: HEIGHT }}>
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={data} margin={MARGIN} accessibilityLayer={false} barGap={0} onClick={pressed(onPoint)}>
            {axes}
            <XAxis dataKey="at" tickFormatter={tick} tick={TICK} stroke="var(--edge)" minTickGap={24} />
            <Bar dataKey="came" fill="var(--slate-soft)" stroke="var(--slate)" isAnimationActive={false} />
            <Bar
              dataKey="decided"
              stackId="gone"
              fill="var(--spruce)"
              stroke="var(--spruce)"
              isAnimationActive={false}
            />
            <Bar dataKey="filed" stackId="gone" fill={fillOf(3)} stroke="var(--edge)" isAnimationActive={false} />
            {here && <ReferenceLine x={here.at} stroke="var(--ink)" strokeWidth={2} />}
          </BarChart>
        </ResponsiveContainer>
      </div>
      <Legend
        entries={[
          { name: "came", fill: "var(--slate-soft)" },
          { name: "decided by you", fill: "var(--spruce)" },
          { name: "by rules and servers", fill: fillOf(3) },
        ]}
      />
    </>
  );
}

/** Of more, bars are too thin to be read. */
const MOST_WAITS = 8;
/** So many letters of a name have room beside a bar. */
const NAME_LENGTH = 22;
const MINUTE = 60_000;

/** How long the mail of those who send most waits: half of it, and nine of ten, on a scale that grows by tens. */
export function WaitsChart({ senders }: { readonly senders: readonly PaceSourceShape[] }) {
  const data = senders
    .filter(({ waits }) => waits.median !== null)
    .slice(0, MOST_WAITS)
    .map(({ name, waits }) => ({
      name: name.length > NAME_LENGTH ? `${name.slice(0, NAME_LENGTH - 1)}…` : name,
      half: Math.max(MINUTE, waits.median!),
      most: Math.max(MINUTE, waits.most!),
    }));
  if (data.length === 0) return null;
  return (
    <>
      <div aria-hidden style={{ height: 34 + data.length * 26 }}>
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={data} layout="vertical" margin={MARGIN} accessibilityLayer={false} barGap={0}>
            <CartesianGrid horizontal={false} stroke="var(--rule-soft)" />
            <XAxis
              type="number"
              scale="log"
              domain={[MINUTE, "dataMax"]}
              ticks={[MINUTE, 60 * MINUTE, 24 * 60 * MINUTE, 7 * 24 * 60 * MINUTE, 28 * 24 * 60 * MINUTE]}
              allowDataOverflow
              tickFormatter={(ms: number) => lengthText(ms)}
              tick={TICK}
              stroke="var(--edge)"
            />
            <YAxis type="category" dataKey="name" width={150} tick={TICK} stroke="var(--edge)" interval={0} />
            <Bar dataKey="half" fill="var(--spruce)" stroke="var(--spruce)" isAnimationActive={false} />
            <Bar dataKey="most" fill={fillOf(3)} stroke="var(--edge)" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      </div>
      <Legend
        entries={[
          { name: "half within", fill: "var(--spruce)" },
          { name: "nine of ten within", fill: fillOf(3) },
        ]}
      />
    </>
  );
}
