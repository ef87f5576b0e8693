import { useState } from "react";
import { passwordProblem } from "@/core/api";
import { isAddress } from "@/core/letter";
import { Labelled } from "./labelled";
import { write } from "../state/api";
import { Sends } from "./form";

interface BeginProps {
  /** The secret part of an invitation; null for the first person. */
  readonly invitation: string | null;
  readonly onIn: () => void;
}

/** Somebody new: what they are called, and how they will come in. */
export function BeginForm({ invitation, onIn }: BeginProps) {
  const [name, setName] = useState("");
  const [address, setAddress] = useState("");
  const [password, setPassword] = useState("");
  const wrongPassword = password === "" ? null : passwordProblem(password);
  const wrongAddress = address === "" || isAddress(address.trim()) ? null : "Write it like name@host.example.";
  const send = async () => {
    const { timeZone: zone } = Intl.DateTimeFormat().resolvedOptions();
    const begun = { name: name.trim(), address: address.trim(), password, zone };
    if (invitation === null) await write("POST", "/sign-in/first", begun);
    else await write("POST", "/sign-in/invited", { ...begun, link: invitation });
    onIn();
  };
  const isReady =
    name.trim() !== "" && address !== "" && password !== "" && wrongAddress === null && wrongPassword === null;
  return (
    <Sends label="Begin" button="Begin" isReady={isReady} send={send}>
      <Labelled label="Your name" value={name} onChange={setName} fills="name" isFirst />
      <Labelled
        label="Your e-mail address"
        type="email"
        value={address}
        onChange={setAddress}
        fills="username"
        problem={wrongAddress}
        hint="You sign in with it, and letters go out from it."
      />
      <Labelled
        label="A password"
        type="password"
        value={password}
        onChange={setPassword}
        fills="new-password"
        problem={wrongPassword}
        hint="At least 12 characters: a few words will do."
      />
    </Sends>
  );
}
