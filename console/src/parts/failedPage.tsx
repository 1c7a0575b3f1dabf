import { Trans } from "@lingui/react/macro";
import { Link, useRouteError } from "react-router";
import { Button } from "./button";
import { Notice } from "./notice";

/** In the place of a page that there is not. */
export function NoPage() {
  return (
    <section className="space-y-4">
      <h1 className="text-2xl font-semibold tracking-tight">
        <Trans>There is no page at this address</Trans>
      </h1>
      <p>
        <Trans>
          It may be mistyped, or from another version. The pages are listed above;{" "}
          <Link to="/" className="text-accent underline">
            the overview
          </Link>{" "}
          shows all indexes.
        </Trans>
      </p>
    </section>
  );
}

/** In the place of a page that could not be fetched or shown. */
export function FailedPage() {
  const error = useRouteError();
  return (
    <section className="space-y-4">
      <h1 className="text-2xl font-semibold tracking-tight">
        <Trans>This page cannot be shown</Trans>
      </h1>
      <Notice tone="bad">{error instanceof Error ? error.message : String(error)}</Notice>
      <p>
        <Trans>
          If the service was upgraded since this console was opened, loading it again helps.
        </Trans>
      </p>
      <Button main onClick={() => window.location.reload()}>
        <Trans>Load again</Trans>
      </Button>
    </section>
  );
}
