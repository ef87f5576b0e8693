import { LedgerScreen } from "@/ui/ledger/ledger-screen";

export default function Page() {
  return <LedgerScreen />;
}
