import { ContactsScreen } from "@/ui/contacts/contacts-screen";

export default function Page() {
  return <ContactsScreen />;
}
