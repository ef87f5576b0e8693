"use client";
import { useQuery } from "@tanstack/react-query";
import { SIMULATOR_MODES, type SimulatorShape } from "@/core/api";
import { plural } from "../parts/words";
import { write } from "../state/api";
import { reads, simulator } from "../state/reads";
import { notify } from "../state/store";
import { alter } from "./act";

const FIELD = "rounded-sm border border-rule bg-sheet px-1 py-0.5";
const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-1";

const RATES: readonly (readonly [rate: number, name: string])[] = [
  [0, "no mail by itself"],
  [1, "one message an hour"],
  [4, "4 messages an hour"],
  [30, "30 an hour"],
  [120, "two a minute"],
  [1200, "twenty a minute"],
];
const MODES: Readonly<Record<(typeof SIMULATOR_MODES)[number], string>> = {
  well: "well",
  slow: "slowly",
  busy: "“too busy, try again later”",
  breaking: "not, after it has taken what is sent",
  away: "not at all",
};

const look = () => reads.invalidateQueries(simulator);

/** What is being read is older than what the person chose. */
function show(fields: Partial<SimulatorShape>): void {
  void reads.cancelQueries(simulator);
  reads.setQueryData(simulator.queryKey, (now) => now && { ...now, ...fields });
}

async function bring(count: number): Promise<void> {
  try {
    await write("POST", "/simulator/mail", { count });
    notify(`${plural(count, "message")} on the way.`);
  } catch (error) {
    notify(error instanceof Error ? error.message : "The service could not be told. Try again.", "trouble");
  }
  await look();
}

/** What the service is doing now, in words. */
function stateText({ waiting, trouble, made }: SimulatorShape): string {
  if (trouble) return `${trouble} ${plural(waiting, "message")} wait there and come in once it answers.`;
  if (waiting > 0) return `${plural(waiting, "message")} on the way.`;
  return made === 0 ? "It has sent nothing yet." : `It has sent ${plural(made, "message")} so far.`;
}

/** The simulated mail service: how much mail it brings, and how well it answers. Only there where there is one. */
export function Service() {
  const { data } = useQuery(simulator);
  if (!data) return null;
  const put = async (before: Partial<SimulatorShape>, after: Partial<SimulatorShape>, name: string) => {
    await alter("/simulator", before, after, name, show);
    await look();
  };
  return (
    <section aria-labelledby="service-title" className="grid gap-1.5 text-[13px]">
      <h2 id="service-title" className="text-[13px] font-bold">
        Simulated mail service
      </h2>
      <label className="flex items-center gap-2">
        It brings
        <select
          value={data.rate}
          onChange={({ target }) => {
            const rate = Number(target.value);
            const name = RATES.find(([one]) => one === rate)?.[1] ?? `${rate} an hour`;
            void put({ rate: data.rate }, { rate }, `The service brings ${name}`);
          }}
          className={FIELD}
        >
          {RATES.map(([rate, name]) => (
            <option key={rate} value={rate}>
              {name}
            </option>
          ))}
          {!RATES.some(([rate]) => rate === data.rate) && <option value={data.rate}>{data.rate} an hour</option>}
        </select>
      </label>
      <label className="flex items-center gap-2">
        It answers
        <select
          value={data.mode}
          onChange={({ target }) => {
            const mode = target.value as SimulatorShape["mode"];
            void put({ mode: data.mode }, { mode }, `The service answers ${MODES[mode]} now`);
          }}
          className={FIELD}
        >
          {SIMULATOR_MODES.map((mode) => (
            <option key={mode} value={mode}>
              {MODES[mode]}
            </option>
          ))}
        </select>
      </label>
      <p className="flex flex-wrap items-center gap-2">
        {[1, 10, 100].map((count) => (
          <button key={count} type="button" onClick={() => void bring(count)} className={BUTTON}>
            Bring {count} now
          </button>
        ))}
      </p>
      <p
        role="status"
        data-testid="service"
        className={`max-w-[60ch] ${data.trouble ? "rounded-sm bg-amber-soft px-2 py-1" : "text-ink-2"}`}
      >
        {stateText(data)}
      </p>
    </section>
  );
}
