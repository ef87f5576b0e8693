import { AgendaScreen } from "@/ui/agenda/agenda-screen";

export default function Page() {
  return <AgendaScreen />;
}
