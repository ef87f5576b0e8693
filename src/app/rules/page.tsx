import { RulesScreen } from "@/ui/rules/rules-screen";

export default function Page() {
  return <RulesScreen />;
}
