import { TasksScreen } from "@/ui/tasks/tasks-screen";

export default function Page() {
  return <TasksScreen />;
}
