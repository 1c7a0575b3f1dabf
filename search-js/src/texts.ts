/** What the parts say. */
export interface Texts {
  search: string;
  results: (count: number, exact: boolean) => string;
  nothing: string;
  meant: string;
  leftOut: (words: string) => string;
  incomplete: string;
  withoutChoices: string;
  chosen: string;
  remove: (label: string) => string;
  removeAll: string;
  filters: string;
  more: string;
  fewer: string;
  find: (title: string) => string;
  from: string;
  to: string;
  apply: string;
  sort: string;
  pages: string;
  page: (number: number) => string;
  previous: string;
  next: string;
  completions: string;
  unavailable: string;
}

const english: Texts = {
  search: "Search",
  results: (count, exact) =>
    `${exact ? "" : "more than "}${number(count, "en")} ${count === 1 ? "result" : "results"}`,
  nothing: "Nothing was found.",
  meant: "Did you mean",
  leftOut: (words) => `Found without: ${words}`,
  incomplete: "Some results are missing at the moment.",
  withoutChoices: "Search without filters",
  chosen: "Chosen filters",
  remove: (label) => `Remove ${label}`,
  removeAll: "Remove all",
  filters: "Filters",
  more: "Show more",
  fewer: "Show fewer",
  find: (title) => `Find in ${title}`,
  from: "from",
  to: "to",
  apply: "Apply",
  sort: "Sort by",
  pages: "Pages",
  page: (number) => `Page ${number}`,
  previous: "Previous",
  next: "Next",
  completions: "Completions",
  unavailable: "The search does not answer at the moment.",
};

const french: Texts = {
  search: "Rechercher",
  results: (count, exact) =>
    `${exact ? "" : "plus de "}${number(count, "fr")} ${count < 2 ? "résultat" : "résultats"}`,
  nothing: "Aucun résultat.",
  meant: "Vouliez-vous dire",
  leftOut: (words) => `Trouvé sans : ${words}`,
  incomplete: "Il manque des résultats pour le moment.",
  withoutChoices: "Rechercher sans filtres",
  chosen: "Filtres choisis",
  remove: (label) => `Retirer ${label}`,
  removeAll: "Tout retirer",
  filters: "Filtres",
  more: "Afficher plus",
  fewer: "Afficher moins",
  find: (title) => `Chercher dans ${title}`,
  from: "de",
  to: "à",
  apply: "Appliquer",
  sort: "Trier par",
  pages: "Pages",
  page: (number) => `Page ${number}`,
  previous: "Précédent",
  next: "Suivant",
  completions: "Propositions",
  unavailable: "La recherche ne répond pas pour le moment.",
};

const german: Texts = {
  search: "Suchen",
  results: (count, exact) => `${exact ? "" : "mehr als "}${number(count, "de")} Treffer`,
  nothing: "Nichts gefunden.",
  meant: "Meinten Sie",
  leftOut: (words) => `Gefunden ohne: ${words}`,
  incomplete: "Zurzeit fehlen einige Treffer.",
  withoutChoices: "Ohne Filter suchen",
  chosen: "Gewählte Filter",
  remove: (label) => `${label} entfernen`,
  removeAll: "Alle entfernen",
  filters: "Filter",
  more: "Mehr anzeigen",
  fewer: "Weniger anzeigen",
  find: (title) => `In ${title} suchen`,
  from: "von",
  to: "bis",
  apply: "Anwenden",
  sort: "Sortieren nach",
  pages: "Seiten",
  page: (number) => `Seite ${number}`,
  previous: "Zurück",
  next: "Weiter",
  completions: "Vorschläge",
  unavailable: "Die Suche antwortet zurzeit nicht.",
};

function number(value: number, language: string): string {
  return new Intl.NumberFormat(language).format(value);
}

const all: Record<string, Texts> = { en: english, fr: french, de: german };

/** The texts of the first language that there are texts for, by BCP 47 tag; otherwise English. */
export function textsFor(languages: readonly string[]): { language: string; texts: Texts } {
  for (const tag of languages) {
    const language = tag.toLowerCase().split("-")[0] ?? "";
    const texts = all[language];
    if (texts) return { language, texts };
  }
  return { language: "en", texts: english };
}
