import { YouScreen } from "@/ui/sign-in/you-screen";

export default function Page() {
  return <YouScreen />;
}
