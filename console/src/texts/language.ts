import { i18n } from "@lingui/core";
import { compileMessage } from "@lingui/message-utils/compileMessage";
import { generateMessageId } from "@lingui/message-utils/generateMessageId";

/** From a text in English to the same in another language; what is missing stays in English. */
type Translation = Record<string, string>;

const TRANSLATIONS = import.meta.glob<Translation>(["./*.json", "!./english.json"], {
  import: "default",
});

const compiled = new Map<string, ReturnType<typeof compileMessage>>();

/** A text is shown many times, and taken apart once. */
i18n.setMessagesCompiler((text) => {
  const known = compiled.get(text) ?? compileMessage(text);
  compiled.set(text, known);
  return known;
});

/**
 * Speaks the first of the reader's languages that there is a file for, otherwise English.
 *
 * @param wanted BCP 47 tags, the best one first
 * @returns the language, such as `en`
 */
export async function speak(
  wanted: readonly string[],
  translations = TRANSLATIONS,
): Promise<string> {
  for (const tag of wanted) {
    // Not every tag is a proper one: a browser without a locale may say `en-US@posix`.
    const language = tag.toLowerCase().split("-")[0] ?? "";
    const load = translations[`./${language}.json`];
    if (load || language === "en") return use(language, load ? await load() : {});
  }
  return use("en", {});
}

function use(language: string, translation: Translation): string {
  const messages = Object.entries(translation).map(([english, text]) => [
    generateMessageId(english),
    text,
  ]);
  i18n.loadAndActivate({ locale: language, messages: Object.fromEntries(messages) });
  return language;
}
