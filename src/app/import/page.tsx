import { Importing } from "@/ui/importing/importing";

export default function Page() {
  return <Importing />;
}
