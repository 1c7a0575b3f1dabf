package org.mnemex.service.search;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.request.SearchRequest;

/** Links to the results before and after those of an answer (RFC 8288), as query strings. */
final class Links {
  private Links() {}

  static List<String> of(SearchCall call, SearchAnswer answer) {
    List<String> links = new ArrayList<>();
    int size = call.size();
    if (size > 0 && answer.results().size() == size && hasMore(call, answer)) {
      links.add(link(call.at(next(call, answer)), "next"));
    }
    if (size > 0 && call.offset() > 0) {
      Map<String, Object> place =
          call.body().skip() == null
              ? Map.of("page", call.page() - 1)
              : Map.of("skip", Math.max(0, call.offset() - size));
      links.add(link(call.at(place), "prev"));
    }
    return links;
  }

  private static boolean hasMore(SearchCall call, SearchAnswer answer) {
    // After a cursor, only the next answer tells.
    return call.body().after() != null
        || answer.total() == null
        || !answer.total().exact()
        || call.offset() + call.size()
            < (answer.groups() == null ? answer.total().count() : answer.groups());
  }

  private static Map<String, Object> next(SearchCall call, SearchAnswer answer) {
    long offset = call.offset() + call.size();
    boolean tooDeep = offset + call.size() > SearchRequest.DEEPEST;
    if (answer.next() != null && (call.body().after() != null || tooDeep)) {
      return Map.of("after", answer.next());
    }
    return call.body().skip() == null ? Map.of("page", call.page() + 1) : Map.of("skip", offset);
  }

  private static String link(String target, String relation) {
    return "<%s>; rel=\"%s\"".formatted(target, relation);
  }
}
