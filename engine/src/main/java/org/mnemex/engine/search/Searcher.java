package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.QueryRefusedException;
import org.mnemex.engine.SearchRequest;
import org.mnemex.engine.SearchResult;
import org.mnemex.engine.facet.FacetCounter;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.read.StoredDocument;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;

/**
 * Runs a request on a snapshot.
 *
 * <h2>Facets of which several values can be chosen</h2>
 *
 * <p>Let M be the documents that match query and filter, and F<sub>i</sub> those with what is
 * chosen in facet i. Results are M ∩ F<sub>1</sub> ∩ … ∩ F<sub>n</sub>; facet i is counted over M
 * and all F<sub>j</sub> but its own, so that its other values show what choosing them as well would
 * add.
 */
public final class Searcher {
  private final Snapshot snapshot;
  private final Schema schema;
  private final SearchRequest request;
  private final EditionStatistics statistics;

  private Searcher(Snapshot snapshot, SearchRequest request) {
    this.snapshot = snapshot;
    this.schema = snapshot.schema();
    this.request = request;
    this.statistics = new EditionStatistics(snapshot);
  }

  /**
   * Runs {@code request} on {@code snapshot}.
   *
   * @throws org.mnemex.engine.UnknownFieldException if it names a field that is not there
   * @throws QueryRefusedException if it asks a field for a use that it has not
   */
  public static SearchResult search(Snapshot snapshot, SearchRequest request) {
    return new Searcher(snapshot, request).run();
  }

  private SearchResult run() {
    List<FacetCounter> counters = new ArrayList<>();
    List<Query> choices = new ArrayList<>();
    for (FacetRequest facet : request.facets()) {
      counters.add(new FacetCounter(facet, fieldOf(facet)));
      choices.add(choice(facet));
    }
    TopHits top = new TopHits(request.offset() + request.size(), sortField(), request.sort());
    long total = 0;
    for (SegmentView view : snapshot.segments()) {
      total += searchSegment(view, choices, counters, top);
    }
    List<TopHits.Entry> best = top.inOrder();
    List<SearchResult.Hit> hits =
        hits(best.subList(Math.min(request.offset(), best.size()), best.size()));
    return new SearchResult(
        total, hits, counters.stream().map(FacetCounter::result).toList(), snapshot.checkpoint());
  }

  private long searchSegment(
      SegmentView view, List<Query> choices, List<FacetCounter> counters, TopHits top) {
    SegmentQuery queries = new SegmentQuery(view, schema, statistics);
    DocBits eligible = view.live();
    eligible.and(queries.bits(request.filter()));
    List<@Nullable DocBits> chosen = new ArrayList<>();
    DocBits allChosen = DocBits.all(view.reader().documents());
    for (Query choice : choices) {
      DocBits bits = choice instanceof Query.Everything ? null : queries.bits(choice);
      chosen.add(bits);
      if (bits != null) {
        allChosen.and(bits);
      }
    }
    DocBits matched = new DocBits(view.reader().documents());
    long total = 0;
    Matcher matcher = queries.matcher(request.query());
    for (int doc = matcher.next(); doc != Matcher.END; doc = matcher.next()) {
      if (eligible.get(doc)) {
        matched.set(doc);
        if (allChosen.get(doc)) {
          total++;
          top.offer(view.reader(), doc, matcher.score());
        }
      }
    }
    for (int i = 0; i < counters.size(); i++) {
      DocBits counted = matched.copy();
      for (int other = 0; other < chosen.size(); other++) {
        DocBits bits = chosen.get(other);
        if (other != i && bits != null) {
          counted.and(bits);
        }
      }
      counters.get(i).count(view.reader(), counted);
    }
    return total;
  }

  private Field fieldOf(FacetRequest request) {
    Field field = schema.field(request.field());
    if (!field.uses().contains(Use.FACET)) {
      throw new QueryRefusedException(
          "field '%s' of facet '%s' has not the use 'facet'"
              .formatted(field.name(), request.name()));
    }
    if (request instanceof FacetRequest.Ranges && field.type() == FieldType.EXACT) {
      throw new QueryRefusedException(
          "facet '%s' has ranges, but field '%s' is no number or date"
              .formatted(request.name(), field.name()));
    }
    return field;
  }

  private static Query choice(FacetRequest facet) {
    return switch (facet) {
      case FacetRequest.Values values when values.chosen().isEmpty() -> new Query.Everything();
      case FacetRequest.Values values -> new Query.OneOf(values.field(), values.chosen());
      case FacetRequest.Ranges ranges when ranges.chosen().isEmpty() -> new Query.Everything();
      case FacetRequest.Ranges ranges ->
          new Query.AnyOf(
              ranges.chosen().stream()
                  .<Query>map(
                      interval ->
                          new Query.Range(
                              ranges.field(), interval.from(), true, interval.to(), false))
                  .toList());
    };
  }

  private @Nullable Field sortField() {
    SearchRequest.Sort sort = request.sort();
    if (sort == null) {
      return null;
    }
    Field field = schema.field(sort.field());
    if (!field.uses().contains(Use.SORT)) {
      throw new QueryRefusedException(
          "field '" + field.name() + "' cannot be sorted by; give it the use 'sort' in the index");
    }
    return field;
  }

  private List<SearchResult.Hit> hits(List<TopHits.Entry> entries) {
    Map<HighlightRequest, Highlighter> highlighters = new LinkedHashMap<>();
    for (HighlightRequest highlight : request.highlights()) {
      Field field = schema.field(highlight.field());
      if (field.type() == FieldType.TEXT) {
        Highlighter highlighter = new Highlighter(request.query(), field);
        if (!highlighter.isEmpty()) {
          highlighters.put(highlight, highlighter);
        }
      }
    }
    List<SearchResult.Hit> hits = new ArrayList<>();
    for (TopHits.Entry entry : entries) {
      StoredDocument document = entry.segment().stored(entry.doc());
      Map<String, List<Object>> shown = new LinkedHashMap<>();
      for (String name : request.show()) {
        List<Object> values = document.fields().get(name);
        if (values != null) {
          shown.put(name, values);
        }
      }
      Map<String, List<String>> marked = new LinkedHashMap<>();
      highlighters.forEach(
          (highlight, highlighter) -> {
            List<String> fragments = new ArrayList<>();
            for (Object value : document.fields().getOrDefault(highlight.field(), List.of())) {
              int left = highlight.fragments() - fragments.size();
              if (highlight.fragments() == 0 || left > 0) {
                fragments.addAll(
                    highlighter.highlight(
                        (String) value,
                        new HighlightRequest(
                            highlight.field(), Math.max(0, left), highlight.words())));
              }
            }
            if (!fragments.isEmpty()) {
              marked.put(highlight.field(), fragments);
            }
          });
      String key = new String(entry.segment().key(entry.doc()), StandardCharsets.UTF_8);
      hits.add(new SearchResult.Hit(key, entry.score(), shown, marked));
    }
    return hits;
  }
}
