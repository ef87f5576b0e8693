import type { TokenSource } from "@/core/api";
import { FIELD } from "../contacts/change";

interface Props {
  readonly tokens: TokenSource;
  readonly onChange: (tokens: TokenSource) => void;
  readonly clientSecret: string;
  readonly onClientSecret: (secret: string) => void;
}

/** Where access tokens are fetched, and as which client. */
export function TokenFields({ tokens, onChange, clientSecret, onClientSecret }: Props) {
  const line = (label: string, value: string, change: (value: string) => void, more: object = {}) => (
    <label className="flex flex-wrap items-center gap-2">
      <span className="w-24">{label}</span>
      <input
        value={value}
        spellCheck={false}
        autoCapitalize="none"
        autoComplete="off"
        onChange={({ target }) => change(target.value)}
        className={`${FIELD} min-w-0 flex-1 basis-44`}
        {...more}
      />
    </label>
  );
  return (
    <div className="grid gap-2 border-l-2 border-rule pl-3">
      {line("Token endpoint", tokens.endpoint, (endpoint) => onChange({ ...tokens, endpoint }), {
        type: "url",
        required: true,
        placeholder: "https://",
      })}
      {line("Client id", tokens.clientId, (clientId) => onChange({ ...tokens, clientId }), { required: true })}
      {line("Client secret", clientSecret, onClientSecret, {
        type: "password",
        placeholder: "where the endpoint asks for one",
      })}
      {line("Scope", tokens.scope, (scope) => onChange({ ...tokens, scope }), {
        placeholder: "what it gives by itself",
      })}
    </div>
  );
}
