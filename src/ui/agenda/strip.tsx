import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { isDay } from "@/core/calendar";
import { useKeptChoice } from "../parts/kept-choice";
import { useNow } from "../parts/now";
import { plural } from "../parts/words";
import { tasks as tasksRead } from "../state/reads";
import { useView } from "../state/store";
import { useComing } from "./coming";
import { dayAt } from "./shown";
import { beginsText, dayText, timeText } from "./words";

const MINUTE_MS = 60_000;
const FOLDS = ["open", "folded"] as const;

/** How long until then: "in 25 min", "in 3 h", "now". */
function untilText(ms: number): string {
  const minutes = Math.ceil(ms / MINUTE_MS);
  if (minutes <= 0) return "now";
  return minutes < 90 ? `in ${minutes} min` : `in ${Math.round(minutes / 60)} h`;
}

/** What is next, and what is due today: one line over the bench, for whoever plans. */
export function AgendaStrip() {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const now = useNow(20_000);
  const [fold, setFold] = useKeptChoice("agenda strip", FOLDS);
  const coming = useComing(zone, now);
  const { data: tasks = [] } = useQuery(tasksRead);
  const today = dayAt(zone, now);
  const timed = coming.filter(({ event, end }) => end > now && !isDay(event.start));
  const next = timed[0];
  const whole = coming.filter(({ event, start, end }) => isDay(event.start) && start <= now && end > now);
  const open = tasks.filter(({ done, waiting, due }) => !done && !waiting && due !== null);
  const late = open.filter(({ due }) => Date.parse(due!) < now).length;
  const due = open.filter(({ due: at }) => Date.parse(at!) >= now && dayAt(zone, Date.parse(at!)) === today).length;
  if (!next && whole.length === 0 && late + due === 0) return null;
  const nextDay = next ? dayAt(zone, next.start) : today;
  return (
    <aside
      aria-label="Agenda"
      className="flex shrink-0 items-baseline gap-x-4 border-b border-rule bg-well px-3.5 py-1 text-[13px] print:hidden"
    >
      <button
        type="button"
        aria-expanded={fold === "open"}
        onClick={() => setFold(fold === "open" ? "folded" : "open")}
        className="font-semibold"
      >
        <span aria-hidden>{fold === "open" ? "− " : "+ "}</span>agenda
      </button>
      {fold === "open" ? (
        <>
          {next && (
            <Link href="/agenda" prefetch={false} className="min-w-0 flex-1 truncate">
              <span className="num">
                {nextDay === today ? timeText(next, zone) : `${dayText(nextDay)} ${beginsText(next, zone)}`}
              </span>{" "}
              <b>{next.event.title}</b>
              {next.event.place && ` · ${next.event.place}`}
              {nextDay === today && <span className="text-ink-2"> {untilText(next.start - now)}</span>}
            </Link>
          )}
          {!next && <span className="flex-1" />}
          {whole.length > 0 && (
            <span className="max-w-60 truncate text-ink-2 max-md:hidden">
              {whole.map(({ event }) => event.title).join(", ")}
            </span>
          )}
          {late + due > 0 && (
            <Link href="/tasks" prefetch={false} className="flex-none">
              {late > 0 && <span className="text-brick">{plural(late, "task")} overdue</span>}
              {late > 0 && due > 0 && ", "}
              {due > 0 && `${due}${late > 0 ? "" : ` ${due === 1 ? "task" : "tasks"}`} due today`}
            </Link>
          )}
        </>
      ) : (
        <span className="num text-ink-2">{next && nextDay === today ? beginsText(next, zone) : ""}</span>
      )}
    </aside>
  );
}
