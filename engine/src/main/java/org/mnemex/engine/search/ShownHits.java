package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.StoredCodec;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;

/** Reads what is shown of results. */
final class ShownHits {
  private ShownHits() {}

  static List<SearchResult.Hit> of(PreparedSearch search, List<Order.Entry> entries) {
    SearchRequest request = search.request();
    List<Query> asked = new ArrayList<>(search.choices());
    asked.add(request.filter());
    FieldMarkers markers =
        new FieldMarkers(request, search.plan(), search.schema(), asked, search.budget());
    MatchedRows rows = new MatchedRows(asked, request.show(), search::filter);
    Set<String> needed = new HashSet<>(request.show());
    needed.addAll(markers.fields());
    StoredCodec.Decoder decoder = new StoredCodec.Decoder(search.schema(), needed);
    List<SearchResult.Hit> hits = new ArrayList<>();
    for (Order.Entry entry : entries) {
      Map<String, List<Object>> shown = new LinkedHashMap<>();
      Map<String, List<String>> marked = Map.of();
      if (!needed.isEmpty()) {
        Map<String, List<Object>> stored = entry.segment().stored(entry.doc(), decoder);
        for (String name : request.show()) {
          List<Object> values = stored.get(name);
          if (values != null) {
            shown.put(name, values);
          }
        }
        marked = markers.marked(stored);
      }
      hits.add(
          new SearchResult.Hit(
              new String(entry.key(), StandardCharsets.UTF_8),
              entry.score(),
              shown,
              marked,
              rows.of(entry.segment(), entry.doc()),
              search.order().cursor(entry, search.scores().basis()),
              null));
    }
    return hits;
  }
}
