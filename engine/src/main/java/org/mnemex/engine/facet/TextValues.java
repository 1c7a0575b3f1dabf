package org.mnemex.engine.facet;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import java.util.Set;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.text.Folding;

/** Counts the values of an exact field in an array by ordinal, for each segment. */
final class TextValues extends FacetCounter {
  private final ValueFacet request;
  private final Field field;
  private final List<Counted> counts = new ArrayList<>();

  /** What was counted of documents that are not in these segments. */
  private final Map<String, Long> elsewhere = new HashMap<>();

  /** How often each place of a segment's dictionary was counted. */
  private record Counted(SegmentReader segment, Dictionary values, int[] counts) {}

  TextValues(ValueFacet request, Field field) {
    this.request = request;
    this.field = field;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    Dictionary values = segment.values(field);
    budget.take(4L * values.size());
    int[] here = new int[values.size()];
    Column column = segment.column(field);
    count(column, docs, here);
    counts.add(new Counted(segment, values, here));
  }

  /** Adds one for every place of every document. */
  static void count(Column column, DocBits docs, int[] counts) {
    ColumnScan scan = new ColumnScan(column);
    switch (column.shape()) {
      case NONE -> {}
      case ONE, OPTIONAL -> scan.count(docs, counts);
      case MANY -> {
        int first = docs.next(0);
        int last = docs.end();
        if (first >= 0 && docs.count() == last - first) {
          scan.countAll(first, last, counts);
        } else {
          scan.countSeveral(docs, counts);
        }
      }
    }
  }

  @Override
  public void add(FacetCounter other) {
    for (Counted theirs : ((TextValues) other).counts) {
      Counted own =
          counts.stream().filter(one -> one.segment == theirs.segment).findFirst().orElse(null);
      if (own == null) {
        counts.add(theirs);
      } else {
        ColumnScan.add(theirs.counts, own.counts);
      }
    }
  }

  @Override
  public FacetPart part() {
    Map<String, Long> all = new HashMap<>(elsewhere);
    Merged merged = new Merged();
    for (int i = 0; i < merged.size && budget.step(); i++) {
      all.merge(merged.text(i), (long) merged.sums[i], Long::sum);
    }
    return new FacetPart.Texts(all);
  }

  @Override
  public void add(FacetPart part) {
    ((FacetPart.Texts) part)
        .counts()
        .forEach((value, count) -> elsewhere.merge(value, count, Long::sum));
    if (elsewhere.size() > MAX_VALUES) {
      throw new QueryRefusedException(
          "facet '%s' has more than %d values".formatted(request.name(), MAX_VALUES));
    }
  }

  @Override
  public FacetResult result() {
    if (!elsewhere.isEmpty()) {
      return ValueOrder.result(
          request, field, searched(((FacetPart.Texts) part()).counts().entrySet()));
    }
    Merged merged = new Merged();
    boolean quick = request.order() == FacetOrder.COUNT && request.search().isEmpty();
    return quick ? mostFrequent(merged) : ValueOrder.result(request, field, searched(merged));
  }

  private List<FacetResult.Value> searched(Set<Map.Entry<String, Long>> counted) {
    String search = Folding.foldCase(request.search());
    List<FacetResult.Value> values = new ArrayList<>();
    for (Map.Entry<String, Long> one : counted) {
      boolean chosen = request.chosen().contains(one.getKey());
      if (chosen || hasWord(one.getKey(), search)) {
        values.add(new FacetResult.Value(one.getKey(), one.getValue(), chosen));
      }
    }
    return values;
  }

  /** Reads only values that may be shown: those with counts not below the last one's. */
  private FacetResult mostFrequent(Merged merged) {
    PriorityQueue<Integer> best = new PriorityQueue<>();
    for (int i = 0; i < merged.size; i++) {
      if (best.size() < Math.max(1, request.limit())) {
        best.add(merged.sums[i]);
      } else if (merged.sums[i] > best.element()) {
        best.remove();
        best.add(merged.sums[i]);
      }
    }
    int least = best.isEmpty() ? 1 : best.element();
    List<FacetResult.Value> values = new ArrayList<>();
    boolean all = request.chosen().isEmpty();
    for (int i = 0; i < merged.size && budget.step(); i++) {
      if (merged.sums[i] >= least || !all) {
        FacetResult.Value value = merged.value(i);
        if (merged.sums[i] >= least || value.chosen()) {
          values.add(value);
        }
      }
    }
    FacetResult shown = ValueOrder.result(request, field, values);
    long zero = shown.values().stream().filter(value -> value.count() == 0).count();
    return new FacetResult(
        request.name(), shown.values(), merged.size + zero > shown.values().size());
  }

  private List<FacetResult.Value> searched(Merged merged) {
    String search = Folding.foldCase(request.search());
    List<FacetResult.Value> values = new ArrayList<>();
    for (int i = 0; i < merged.size && budget.step(); i++) {
      FacetResult.Value value = merged.value(i);
      if (value.chosen() || hasWord((String) value.value(), search)) {
        values.add(value);
      }
    }
    return values;
  }

  /** The values that were counted, each once, in the order of their bytes. */
  private final class Merged {
    int size;
    int[] sums = new int[256];
    private int[] segments = new int[256];
    private int[] places = new int[256];

    Merged() {
      Dictionary.Walk[] walks = new Dictionary.Walk[counts.size()];
      PriorityQueue<Integer> queue =
          new PriorityQueue<>(
              (a, b) ->
                  Arrays.compareUnsigned(
                      walks[a].buffer(),
                      0,
                      walks[a].length(),
                      walks[b].buffer(),
                      0,
                      walks[b].length()));
      for (int i = 0; i < walks.length; i++) {
        walks[i] = counts.get(i).values.walk();
        if (nextCounted(i, walks[i])) {
          queue.add(i);
        }
      }
      byte[] last = {};
      while (!queue.isEmpty() && budget.step()) {
        int least = queue.remove();
        Dictionary.Walk walk = walks[least];
        int count = counts.get(least).counts[walk.place()];
        if (size > 0 && walks.length > 1 && walk.compareTo(last) == 0) {
          sums[size - 1] += count;
        } else {
          add(count, least, walk.place());
          last = walks.length > 1 ? walk.term() : last;
        }
        if (nextCounted(least, walk)) {
          queue.add(least);
        }
      }
    }

    private boolean nextCounted(int dictionary, Dictionary.Walk walk) {
      int[] here = counts.get(dictionary).counts;
      int place = walk.place() + 1;
      while (place < here.length && here[place] == 0) {
        place++;
      }
      if (place >= here.length) {
        return false;
      }
      walk.goTo(place);
      return true;
    }

    private void add(int count, int segment, int place) {
      if (size == sums.length) {
        sums = Arrays.copyOf(sums, 2 * size);
        segments = Arrays.copyOf(segments, 2 * size);
        places = Arrays.copyOf(places, 2 * size);
      }
      sums[size] = count;
      segments[size] = segment;
      places[size++] = place;
    }

    FacetResult.Value value(int i) {
      String text = text(i);
      return new FacetResult.Value(text, sums[i], request.chosen().contains(text));
    }

    String text(int i) {
      return new String(counts.get(segments[i]).values.get(places[i]), StandardCharsets.UTF_8);
    }
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
