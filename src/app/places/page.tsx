import { PlacesScreen } from "@/ui/places/places-screen";

export default function Page() {
  return <PlacesScreen />;
}
