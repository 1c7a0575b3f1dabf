package org.mnemex.engine.facet;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Paths;

/** Counts paths one level below another. A document has all ancestors of its paths as values. */
final class PathCounts extends FacetCounter {
  private final PathFacet request;
  private final Field field;
  private final Map<String, Long> counts = new TreeMap<>();

  PathCounts(PathFacet request, Field field) {
    this.request = request;
    this.field = field;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    Dictionary values = segment.values(field);
    budget.take(4L * values.size());
    int[] here = new int[values.size()];
    TextValues.count(segment.column(field), docs, here);
    String under = request.under().isEmpty() ? "" : request.under() + "/";
    int depth = request.under().isEmpty() ? 1 : Paths.depth(request.under()) + 1;
    byte[] prefix = under.getBytes(StandardCharsets.UTF_8);
    Dictionary.Walk walk = values.walk();
    walk.seek(prefix);
    while (walk.hasCurrent() && walk.startsWith(prefix) && budget.step()) {
      if (here[walk.place()] > 0) {
        String path = new String(walk.term(), StandardCharsets.UTF_8);
        if (Paths.depth(path) == depth && !request.chosen().contains(path)) {
          counts.merge(path, (long) here[walk.place()], Long::sum);
        }
      }
      walk.next();
    }
    // Choices may be at any level.
    for (Object chosen : request.chosen()) {
      int place = values.find(((String) chosen).getBytes(StandardCharsets.UTF_8));
      if (place >= 0 && here[place] > 0) {
        counts.merge((String) chosen, (long) here[place], Long::sum);
      }
    }
  }

  @Override
  public FacetPart part() {
    return new FacetPart.Texts(counts);
  }

  @Override
  public void add(FacetPart part) {
    ((FacetPart.Texts) part)
        .counts()
        .forEach((path, count) -> counts.merge(path, count, Long::sum));
  }

  @Override
  public FacetResult result() {
    List<FacetResult.Value> values = new ArrayList<>();
    counts.forEach(
        (path, count) ->
            values.add(new FacetResult.Value(path, count, request.chosen().contains(path))));
    return ValueOrder.result(
        new ValueFacet(
            request.name(), request.field(), request.chosen(), request.limit(), FacetOrder.COUNT),
        field,
        values);
  }
}
