import { SignInScreen } from "@/ui/sign-in/sign-in-screen";

export default function Page() {
  return <SignInScreen />;
}
