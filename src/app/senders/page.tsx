import { SendersScreen } from "@/ui/senders/senders-screen";

export default function Page() {
  return <SendersScreen />;
}
