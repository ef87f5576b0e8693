import { SECURITY, type Servers, type ServerShape } from "@/core/api";
import { FIELD } from "../contacts/change";

const NAMES: Readonly<Record<(typeof SECURITY)[number], string>> = {
  tls: "TLS",
  starttls: "STARTTLS",
  none: "none, on this machine only",
};

function ServerLine({
  name,
  server,
  onChange,
}: {
  readonly name: string;
  readonly server: ServerShape;
  readonly onChange: (server: ServerShape) => void;
}) {
  return (
    <fieldset className="flex min-w-0 flex-wrap items-center gap-2">
      <legend className="float-left w-12 py-1 font-semibold">{name}</legend>
      <input
        aria-label={`${name} server`}
        value={server.host}
        spellCheck={false}
        autoCapitalize="none"
        onChange={({ target }) => onChange({ ...server, host: target.value })}
        className={`${FIELD} min-w-0 flex-1 basis-44`}
      />
      <input
        aria-label={`${name} port`}
        value={server.port || ""}
        inputMode="numeric"
        onChange={({ target }) => onChange({ ...server, port: Number(target.value.replace(/\D/g, "").slice(0, 5)) })}
        className={`${FIELD} num w-16`}
      />
      <select
        aria-label={`${name} encryption`}
        value={server.security}
        onChange={({ target }) => onChange({ ...server, security: target.value as ServerShape["security"] })}
        className={FIELD}
      >
        {SECURITY.map((one) => (
          <option key={one} value={one}>
            {NAMES[one]}
          </option>
        ))}
      </select>
    </fieldset>
  );
}

/** Where an account's servers are, and by which name they know the person. */
export function ServerFields({
  servers,
  onChange,
}: {
  readonly servers: Servers;
  readonly onChange: (servers: Servers) => void;
}) {
  return (
    <div className="grid gap-2 border-l-2 border-rule pl-3">
      <ServerLine name="IMAP" server={servers.imap} onChange={(imap) => onChange({ ...servers, imap })} />
      <ServerLine name="SMTP" server={servers.smtp} onChange={(smtp) => onChange({ ...servers, smtp })} />
      <label className="flex flex-wrap items-center gap-2">
        <span className="w-12">Name</span>
        <input
          aria-label="Name the servers know you by"
          value={servers.user}
          spellCheck={false}
          autoCapitalize="none"
          onChange={({ target }) => onChange({ ...servers, user: target.value })}
          className={`${FIELD} min-w-0 flex-1 basis-44`}
        />
        <select
          aria-label="How to sign in"
          value={servers.method}
          onChange={({ target }) => onChange({ ...servers, method: target.value as Servers["method"] })}
          className={FIELD}
        >
          <option value="password">with a password</option>
          <option value="token">with an OAuth token</option>
          <option value="renewed">with OAuth tokens an endpoint gives</option>
        </select>
      </label>
    </div>
  );
}
