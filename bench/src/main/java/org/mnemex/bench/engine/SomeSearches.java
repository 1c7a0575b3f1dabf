package org.mnemex.bench.engine;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;

/** Searches of the generated documents, one for each seed. */
record SomeSearches(Corpus corpus) {
  private static final Map<String, Double> FIELDS = Map.of("title", 3.0, "body", 1.0);
  private static final List<String> FACETS = List.of("family", "bed", "colour", "year", "price");

  SearchRequest words(Random random) {
    return SearchRequest.of(new Query.AnyOf(clauses(random, 3, 1, 3.5)), 10).countingUpTo(100);
  }

  SearchRequest withFacets(Random random) {
    return withFacets(new Query.AllOf(clauses(random, 2, 1, 2)));
  }

  /** A word of about a rank, and five facets. */
  SearchRequest wordWithFacets(Random random, int rank) {
    return withFacets(clauses(random, 1, Math.log10(rank), 0.1).getFirst());
  }

  /** Five facets over all documents. */
  SearchRequest everything() {
    return withFacets(new Query.Everything());
  }

  SearchRequest sorted(Random random) {
    return SearchRequest.of(clauses(random, 1, 1, 1).getFirst(), 10)
        .sortedBy(List.of(new SearchRequest.Sort("price", true)))
        .countingUpTo(Long.MAX_VALUE);
  }

  SearchRequest counted(Random random) {
    return SearchRequest.of(new Query.AllOf(clauses(random, 2, 1, 2)), 10)
        .countingUpTo(Long.MAX_VALUE);
  }

  SearchRequest rare(Random random) {
    return SearchRequest.of(clauses(random, 1, 4, 1).getFirst(), 10).countingUpTo(100);
  }

  private static SearchRequest withFacets(Query query) {
    List<FacetRequest> facets =
        FACETS.stream()
            .map(name -> (FacetRequest) new ValueFacet(name, name, List.of(), 10, FacetOrder.COUNT))
            .toList();
    return SearchRequest.of(query, 10).at(0, 10, facets).countingUpTo(Long.MAX_VALUE);
  }

  /** Words of ranks from 10 to the power of {@code from}, over so many powers of ten. */
  private List<Query> clauses(Random random, int count, double from, double powers) {
    Query[] clauses = new Query[count];
    Arrays.setAll(
        clauses,
        i ->
            new Query.Word(
                FIELDS,
                corpus.word((int) Math.pow(10, from + powers * random.nextDouble())),
                false));
    return List.of(clauses);
  }
}
