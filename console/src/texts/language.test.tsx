import { Plural, Trans } from "@lingui/react/macro";
import { render } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { speak } from "./language";

const GERMAN = {
  "{documents, plural, one {one record} other {many records}} of <0>{garden}</0>":
    "<0>{garden}</0> hat {documents, plural, one {einen Datensatz} other {viele Datensätze}}",
};

const files = { "./de.json": async () => GERMAN };

afterEach(() => speak(["en"]));

function shown(documents: number) {
  const garden = "Quillmere";
  return render(
    <p>
      <Trans>
        <Plural value={documents} one="one record" other="many records" /> of <em>{garden}</em>
      </Trans>
    </p>,
  ).container.innerHTML;
}

test("the first of the reader's languages that there are texts for is spoken", async () => {
  expect(await speak(["fr-CA", "de-AT", "en"], files)).toBe("de");
  expect(shown(1)).toBe("<p><em>Quillmere</em> hat einen Datensatz</p>");
  expect(shown(2)).toBe("<p><em>Quillmere</em> hat viele Datensätze</p>");
});

test("English is the default and needs no file", async () => {
  for (const wanted of [["en-US@posix", "de"], ["fr"], []]) {
    expect(await speak(wanted, files)).toBe("en");
    expect(shown(1)).toBe("<p>one record of <em>Quillmere</em></p>");
  }
});

test("what is not translated yet stays in English", async () => {
  await speak(["de"], { "./de.json": async () => ({}) });
  expect(shown(3)).toBe("<p>many records of <em>Quillmere</em></p>");
});
