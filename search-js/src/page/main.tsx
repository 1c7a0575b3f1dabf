import { createRoot } from "react-dom/client";
import { EndpointClient, SearchProblem } from "../client";
import { SearchStore } from "../store";
import { textsFor } from "../texts";
import { Page } from "./page";
import "./page.css";

const { language, texts } = textsFor(navigator.languages);
document.documentElement.lang = language;

const endpoint = decodeURIComponent(window.location.pathname.split("/").at(-1) ?? "");
// What stands after # is not sent to any server: a link may carry a key that may only search.
const key = new URLSearchParams(window.location.hash.slice(1)).get("key") ?? undefined;
const client = new EndpointClient<Record<string, unknown>>({ endpoint, key });
const root = document.getElementById("root");

client.page().then(
  (view) => {
    document.title = view.title;
    const spoken = view.languages.includes(language) ? { language } : undefined;
    const store = new SearchStore(client, { address: true, usual: { more: spoken } });
    if (root) createRoot(root).render(<Page {...{ view, store, texts, language }} />);
  },
  (error) => {
    const why = error instanceof SearchProblem && error.status ? error.message : texts.unavailable;
    if (root) createRoot(root).render(<p role="alert">{why}</p>);
  },
);
