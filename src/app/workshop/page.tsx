import { Workshop } from "@/ui/workshop/workshop";

export default function Page() {
  return <Workshop />;
}
