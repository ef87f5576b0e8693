import { ComposeWindow } from "@/ui/compose/compose-window";

export default function Page() {
  return <ComposeWindow />;
}
