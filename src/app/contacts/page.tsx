import { ContactsScreen } from "@/ui/contacts/contacts-screen";

type Asked = Promise<{ readonly of?: string | string[] }>;

export default async function Page({ searchParams }: { readonly searchParams: Asked }) {
  const { of } = await searchParams;
  return <ContactsScreen of={[of].flat()[0] ?? null} />;
}
