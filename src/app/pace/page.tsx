import { PaceScreen } from "@/ui/pace/pace-screen";

export default function Page() {
  return <PaceScreen />;
}
