import { OwnWindow } from "@/ui/bench/own-window";

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <OwnWindow id={Number((await params).id)} />;
}
