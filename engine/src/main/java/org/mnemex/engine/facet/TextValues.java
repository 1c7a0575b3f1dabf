package org.mnemex.engine.facet;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.text.Folding;

/** Counts by value of an exact field: an array of counts by place in each segment's dictionary. */
final class TextValues extends FacetCounter {
  private final FacetRequest.Values request;
  private final Field field;
  private final List<Dictionary> dictionaries = new ArrayList<>();
  private final List<int[]> counts = new ArrayList<>();

  TextValues(FacetRequest.Values request, Field field) {
    this.request = request;
    this.field = field;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    Dictionary values = segment.values(field);
    int[] here = new int[values.size()];
    Column column = segment.column(field);
    count(column, docs, here);
    dictionaries.add(values);
    counts.add(here);
  }

  /** Adds one for every place of every document. */
  static void count(Column column, DocBits docs, int[] counts) {
    ColumnScan scan = new ColumnScan(column);
    switch (column.shape()) {
      case NONE -> {}
      case ONE, OPTIONAL -> scan.count(docs, counts);
      case MANY ->
          scan.forEach(
              docs,
              (doc, values, from, end) -> {
                for (int i = from; i < end; i++) {
                  counts[(int) values[i]]++;
                }
              });
    }
  }

  @Override
  public FacetResult result() {
    boolean quick =
        counts.size() == 1
            && request.order() == FacetRequest.Order.COUNT
            && request.search().isEmpty();
    return quick ? mostFrequent() : ValueOrder.result(request, field, merged());
  }

  /** Reads no more values than may be shown: those whose count is not below the last one's. */
  private FacetResult mostFrequent() {
    int[] here = counts.getFirst();
    PriorityQueue<Integer> best = new PriorityQueue<>();
    int having = 0;
    for (int count : here) {
      if (count > 0) {
        having++;
        best.add(count);
        if (best.size() > Math.max(1, request.limit())) {
          best.remove();
        }
      }
    }
    int least = best.isEmpty() ? 1 : best.element();
    List<FacetResult.Value> values = new ArrayList<>();
    for (int place = 0; place < here.length; place++) {
      if (here[place] >= least) {
        values.add(value(dictionaries.getFirst(), place, here[place]));
      }
    }
    for (Object chosen : request.chosen()) {
      int place = dictionaries.getFirst().find(((String) chosen).getBytes(StandardCharsets.UTF_8));
      if (place >= 0 && here[place] > 0 && here[place] < least) {
        values.add(value(dictionaries.getFirst(), place, here[place]));
      }
    }
    FacetResult shown = ValueOrder.result(request, field, values);
    long zero = shown.values().stream().filter(value -> value.count() == 0).count();
    return new FacetResult(request.name(), shown.values(), having + zero > shown.values().size());
  }

  private FacetResult.Value value(Dictionary dictionary, int place, long count) {
    String text = new String(dictionary.get(place), StandardCharsets.UTF_8);
    return new FacetResult.Value(text, count, request.chosen().contains(text));
  }

  private List<FacetResult.Value> merged() {
    Map<String, Long> byValue = new HashMap<>();
    String search = Folding.foldCase(request.search());
    for (int i = 0; i < counts.size(); i++) {
      int[] here = counts.get(i);
      Dictionary.Walk walk = dictionaries.get(i).walk();
      while (walk.next()) {
        if (here[walk.place()] > 0) {
          String value = new String(walk.buffer(), 0, walk.length(), StandardCharsets.UTF_8);
          if (hasWord(value, search)) {
            byValue.merge(value, (long) here[walk.place()], Long::sum);
          }
        }
      }
    }
    List<FacetResult.Value> values = new ArrayList<>(byValue.size());
    byValue.forEach(
        (value, count) ->
            values.add(new FacetResult.Value(value, count, request.chosen().contains(value))));
    return values;
  }

  /** Whether a word of {@code value} begins with {@code folded}. */
  static boolean hasWord(String value, String folded) {
    if (folded.isEmpty()) {
      return true;
    }
    String text = Folding.foldCase(value);
    for (int at = text.indexOf(folded); at >= 0; at = text.indexOf(folded, at + 1)) {
      if (at == 0 || !Character.isLetterOrDigit(text.charAt(at - 1))) {
        return true;
      }
    }
    return false;
  }
}
