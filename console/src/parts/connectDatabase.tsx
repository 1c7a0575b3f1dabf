import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { type InputHTMLAttributes, useState } from "react";
import { Button } from "./button";
import { PlannedEditor } from "./changeDefinition";
import { useMayChange } from "./mayChange";
import { type Connection, sourceText } from "./sourceText";

const KINDS = [
  { value: "postgres", title: "PostgreSQL" },
  { value: "mariadb", title: "MariaDB" },
  { value: "sqlite", title: "SQLite" },
] as const;

const EMPTY: Connection = {
  name: "",
  kind: "postgres",
  file: "",
  host: "",
  database: "",
  user: "",
  password: "",
  prepare: false,
};

/** From what somebody knows of a database to the definition of a source. */
export function ConnectDatabase({ onConnected }: { onConnected: (name: string) => void }) {
  const [of, setOf] = useState(EMPTY);
  const [drafted, setDrafted] = useState<string>();
  if (!useMayChange()) return null;
  const made = sourceText(of);
  const set = (changed: Partial<Connection>) => {
    setOf({ ...of, ...changed });
    setDrafted(undefined);
  };
  const isServer = of.kind !== "sqlite";
  return (
    <section className="rounded border border-line bg-surface px-4 py-3" aria-labelledby="connect">
      <h2 id="connect" className="text-lg font-semibold">
        <Trans>Connect a database</Trans>
      </h2>
      <p className="mt-1">
        <Trans>
          The password stays in the service's environment; the definition only refers to it.
        </Trans>
      </p>
      <fieldset className="mt-2 flex flex-wrap gap-4">
        <legend className="sr-only">
          <Trans>Kind of database</Trans>
        </legend>
        {KINDS.map((kind) => (
          <label key={kind.value} className="flex items-center gap-1.5">
            <input
              type="radio"
              name="kind"
              checked={of.kind === kind.value}
              onChange={() => set({ kind: kind.value })}
            />
            {kind.title}
          </label>
        ))}
      </fieldset>
      <div className="mt-3 grid gap-3 sm:grid-cols-2 lg:grid-cols-3">
        <Text label={t`Name of the source`} value={of.name} onText={(name) => set({ name })} />
        {isServer ? (
          <>
            <Text
              label={t`Host`}
              placeholder="127.0.0.1"
              value={of.host}
              onText={(host) => set({ host })}
            />
            <Text
              label={t`Database`}
              value={of.database}
              onText={(database) => set({ database })}
            />
            <Text label={t`User`} value={of.user} onText={(user) => set({ user })} />
            <Text
              label={t`Variable with the password`}
              placeholder="MNEMEX_GARDEN_PASSWORD"
              value={of.password}
              onText={(password) => set({ password })}
            />
          </>
        ) : (
          <Text
            label={t`File, from the service's folder`}
            value={of.file}
            onText={(file) => set({ file })}
          />
        )}
      </div>
      <label className="mt-3 flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={of.prepare}
          onChange={(event) => set({ prepare: event.target.checked })}
        />
        <Trans>Mnemex may create in the database what it needs to follow it</Trans>
      </label>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button
          changes
          busy={"lacks" in made}
          onClick={() => setDrafted("text" in made ? made.text : undefined)}
        >
          <Trans>Write the definition</Trans>
        </Button>
        {"lacks" in made && (
          <span className="text-quiet">
            <Trans>Still needed: {made.lacks}</Trans>
          </span>
        )}
      </div>
      {drafted !== undefined && (
        <div className="mt-3">
          <PlannedEditor
            key={drafted}
            definition={{ kind: "source", name: of.name, file: `${of.name}.yaml`, text: drafted }}
            atOnce
            onApplied={() => onConnected(of.name)}
          />
        </div>
      )}
    </section>
  );
}

function Text(
  props: { label: string; onText: (text: string) => void } & Pick<
    InputHTMLAttributes<HTMLInputElement>,
    "value" | "placeholder"
  >,
) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="text-sm text-quiet">{props.label}</span>
      <input
        value={props.value}
        placeholder={props.placeholder}
        onChange={(event) => props.onText(event.target.value)}
        className="rounded border border-line bg-ground px-2.5 py-1.5"
      />
    </label>
  );
}
