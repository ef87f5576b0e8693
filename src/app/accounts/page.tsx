import { AccountsScreen } from "@/ui/accounts/accounts-screen";

export default function Page() {
  return <AccountsScreen />;
}
