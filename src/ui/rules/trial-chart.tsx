import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { VERDICTS, type Month } from "@/core/rule";
import { monthText, shortMonthText } from "../parts/words";
import { FILLS, VERDICT_TEXT } from "./verdicts";

const HEIGHT = 150;

/** The table beside it says the same in figures. */
export function TrialChart({ months }: { readonly months: readonly Month[] }) {
  return (
    <div aria-hidden style={{ height: HEIGHT }}>
      <ResponsiveContainer width="100%" height="100%">
        <BarChart data={[...months]} margin={{ top: 6, right: 8, bottom: 0, left: 0 }} accessibilityLayer={false}>
          <CartesianGrid vertical={false} stroke="var(--rule-soft)" />
          <XAxis
            dataKey="month"
            tickFormatter={shortMonthText}
            tick={{ fontSize: 11, fill: "var(--ink)" }}
            stroke="var(--edge)"
            minTickGap={12}
          />
          <YAxis width={40} allowDecimals={false} tick={{ fontSize: 11, fill: "var(--ink)" }} stroke="var(--edge)" />
          <Tooltip
            labelFormatter={(label) => monthText(String(label))}
            contentStyle={{ background: "var(--sheet)", border: "1px solid var(--edge)", fontSize: 12 }}
            cursor={{ fill: "var(--rule-soft)" }}
          />
          {VERDICTS.map((verdict) => (
            <Bar
              key={verdict}
              dataKey={verdict}
              name={VERDICT_TEXT[verdict]}
              stackId="all"
              fill={FILLS[verdict]}
              stroke="var(--edge)"
              isAnimationActive={false}
            />
          ))}
        </BarChart>
      </ResponsiveContainer>
    </div>
  );
}
