import { i18n } from "@lingui/core";
import { TransNoContext, type TransProps } from "@lingui/react/server";

/** A marked text with elements inside. The language does not change while a page is open. */
export function Trans(props: TransProps) {
  return <TransNoContext {...props} lingui={{ i18n }} />;
}
