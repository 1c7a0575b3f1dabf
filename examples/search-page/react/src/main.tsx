import { EndpointClient, SearchStore, textsFor } from "mnemex-search";
import {
  ChosenFilters,
  FacetList,
  NoResultsHelp,
  Pages,
  RangeFacet,
  ResultCount,
  Results,
  SearchBox,
  SearchProvider,
  Shown,
} from "mnemex-search/react";
import { createRoot } from "react-dom/client";

/** The shown fields of the endpoint that this page uses. */
interface Plant {
  name: string;
  latin_name: string;
  bed?: string;
}

const service = new URLSearchParams(location.hash.slice(1)).get("service") ?? "";
const client = new EndpointClient<Plant>({ service, endpoint: "plant-search" });
const store = new SearchStore(client, { address: true });

function Plants() {
  return (
    <SearchProvider store={store} texts={textsFor(["en"]).texts}>
      <header>
        <h1>Plants of the garden</h1>
        <SearchBox placeholder="rose, fern, deep shade" />
      </header>
      <aside aria-label="Filters">
        <FacetList name="family" />
        <RangeFacet name="height" title="Height in cm" />
      </aside>
      <main>
        <ResultCount />
        <ChosenFilters />
        <NoResultsHelp />
        <Results<Plant>>
          {(plant) => (
            <>
              <strong>
                <Shown result={plant} name="name" />
              </strong>{" "}
              <em>{plant.fields.latin_name}</em>, {plant.fields.bed ?? "in the nursery"}
            </>
          )}
        </Results>
        <Pages />
      </main>
    </SearchProvider>
  );
}

const root = document.getElementById("root");
if (root) createRoot(root).render(<Plants />);
