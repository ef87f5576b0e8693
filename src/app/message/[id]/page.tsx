import { MessageWindow } from "@/ui/reader/message-window";

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <MessageWindow id={Number((await params).id)} />;
}
