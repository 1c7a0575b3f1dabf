import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { LogOut } from "lucide-react";
import { type ReactNode, useEffect, useState } from "react";
import { api, type Session, SIGNED_OUT } from "../api";
import { Button } from "./button";
import { CurrentSession } from "./mayChange";
import { ErrorNotice, Waiting } from "./notice";

/** Shows its children to those who are signed in, and a way to sign in to all others. */
export function Signed(props: { children: (session: Session) => ReactNode }) {
  const queries = useQueryClient();
  const session = useQuery({ queryKey: ["session"], queryFn: api.session });
  useEffect(() => {
    const ended = () => queries.invalidateQueries({ queryKey: ["session"] });
    window.addEventListener(SIGNED_OUT, ended);
    return () => window.removeEventListener(SIGNED_OUT, ended);
  }, [queries]);
  if (!session.data) {
    return (
      <div className="mx-auto max-w-7xl px-4 py-5 sm:px-6">
        <Waiting connected={!session.error} />
      </div>
    );
  }
  if (!session.data.name) return <SignIn />;
  return (
    <CurrentSession.Provider value={session.data}>
      {props.children(session.data)}
    </CurrentSession.Provider>
  );
}

function SignIn() {
  const queries = useQueryClient();
  const [key, setKey] = useState("");
  const signIn = useMutation({
    mutationFn: () => api.signIn(key),
    onSuccess: (session) => {
      // What another session saw is not for this one.
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
      queries.setQueryData(["session"], session);
    },
  });
  return (
    <main className="mx-auto mt-24 max-w-md px-4">
      <div className="rounded border border-line bg-surface px-6 py-6">
        <h1 className="mb-1 flex items-center gap-2 text-2xl font-semibold tracking-tight">
          <img src="/mark.svg" alt="" width="26" height="26" />
          <Trans>Sign in to Mnemex</Trans>
        </h1>
        <p className="mb-4 text-quiet">
          <Trans>
            With a key that has the right <em>admin</em> or <em>read</em>.
          </Trans>
        </p>
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            signIn.mutate();
          }}
        >
          <label className="flex flex-col gap-1">
            <span className="font-semibold">
              <Trans>Key</Trans>
            </span>
            <input
              type="password"
              autoComplete="current-password"
              value={key}
              onChange={(event) => setKey(event.target.value)}
              placeholder="mnemex_…"
              className="rounded border border-line bg-page px-3 py-1.5"
            />
          </label>
          {signIn.error && <ErrorNotice error={signIn.error} />}
          <button
            type="submit"
            disabled={key === "" || signIn.isPending}
            className="rounded border border-accent bg-accent px-3 py-1.5 text-surface hover:opacity-90 disabled:opacity-60"
          >
            <Trans>Sign in</Trans>
          </button>
        </form>
        <p className="mt-4 text-sm text-quiet">
          <Trans>
            The first key was printed when the service started. An administrator creates others with{" "}
            <code>mnemex keys create</code>.
          </Trans>
        </p>
      </div>
    </main>
  );
}

/** Who is signed in, and how to end that. */
export function Who({ session }: { session: Session }) {
  const queries = useQueryClient();
  const signOut = useMutation({
    mutationFn: (everywhere: boolean) => api.signOut(everywhere),
    onSettled: () => queries.invalidateQueries({ queryKey: ["session"] }),
  });
  if (!session.keys) {
    return (
      <span className="text-sm text-quiet">
        <Trans>Without keys, this machine only</Trans>
      </span>
    );
  }
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <span className="text-quiet">
        <Trans>
          Signed in as <span className="font-semibold text-ink">{session.name}</span> (
          {session.right})
        </Trans>
      </span>
      <Button onClick={() => signOut.mutate(false)} busy={signOut.isPending}>
        <LogOut size={14} aria-hidden />
        <Trans>Sign out</Trans>
      </Button>
      <Button onClick={() => signOut.mutate(true)} busy={signOut.isPending}>
        <Trans>Sign out everywhere</Trans>
      </Button>
    </div>
  );
}
