import { weekText, type Week } from "@/core/when";
import { Modal } from "../parts/picker";
import { alter } from "../places/act";
import { WeekGrid } from "../rules/week-grid";

interface Props {
  readonly hours: Week;
  readonly onClose: () => void;
}

/** The hours in which tasks are given time. */
export function WorkHours({ hours, onClose }: Props) {
  const store = (week: Week) =>
    void alter("/settings", { workHours: hours }, { workHours: week }, `Tasks are given time ${weekText(week)}`);
  return (
    <Modal title="Working hours" onClose={onClose} wide>
      <div className="grid gap-2 p-4 text-[13px]">
        <p className="text-ink-2">Tasks are given time in them, and nowhere else. They are drawn: {weekText(hours)}.</p>
        <WeekGrid label="Working hours" week={hours} words={["work", "none"]} onChange={store} />
      </div>
    </Modal>
  );
}
