import { useState } from "react";
import { passwordProblem } from "@/core/api";
import { notify } from "../state/store";
import { write } from "../state/api";
import { Sends } from "./form";
import { Labelled } from "./labelled";

interface PasswordChangeProps {
  readonly hasPassword: boolean;
  readonly onDone: () => void;
}

/** A first password, or another one. */
export function PasswordChange({ hasPassword, onDone }: PasswordChangeProps) {
  const [old, setOld] = useState("");
  const [password, setPassword] = useState("");
  const problem = password === "" ? null : passwordProblem(password);
  const send = async () => {
    await write("POST", "/password", { old, password });
    setOld("");
    setPassword("");
    notify(hasPassword ? "Your password is another one. You are signed in only here." : "You have a password now.");
    onDone();
  };
  return (
    <section aria-labelledby="password" className="border-b border-rule px-3.5 py-3">
      <h2 id="password" className="pb-1.5 font-bold">
        {hasPassword ? "Another password" : "A password"}
      </h2>
      {!hasPassword && (
        <p className="pb-2 text-ink-2">You have none yet, and come in by a link. With one you sign in anywhere.</p>
      )}
      <div className="max-w-[372px] max-md:max-w-none">
        <Sends
          label={hasPassword ? "Another password" : "A password"}
          button={hasPassword ? "Change it" : "Set it"}
          isReady={password !== "" && problem === null && (!hasPassword || old !== "")}
          send={send}
        >
          {hasPassword && (
            <Labelled
              label="The password you have"
              type="password"
              value={old}
              onChange={setOld}
              fills="current-password"
            />
          )}
          <Labelled
            label="The new one"
            type="password"
            value={password}
            onChange={setPassword}
            fills="new-password"
            problem={problem}
            hint="At least 12 characters: a few words will do. Everywhere else you are signed out."
          />
        </Sends>
      </div>
    </section>
  );
}
