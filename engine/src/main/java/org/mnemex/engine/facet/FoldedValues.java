package org.mnemex.engine.facet;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.text.Folding;

/**
 * Counts the values of an exact field regardless of case and accents: all spellings are one value,
 * shown in the most frequent one.
 */
final class FoldedValues extends FacetCounter {
  private final ValueFacet request;
  private final Field field;
  private final Map<String, Counted> counted = new HashMap<>();

  FoldedValues(ValueFacet request, Field field) {
    this.request = request;
    this.field = field;
  }

  /** A value, however it is written. */
  private static final class Counted {
    private final Spellings spellings = new Spellings();
    private long documents;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    Dictionary values = segment.values(field);
    PackedNumbers ranks = segment.foldedRanks(field);
    Column column = segment.column(field);
    budget.take(12L * values.size());
    int[] ofSpelling = new int[values.size()];
    int[] ofRank = new int[values.size()];
    ColumnScan scan = new ColumnScan(column);
    if (scan.isSingle()) {
      scan.count(docs, ofSpelling);
      for (int place = 0; place < ofSpelling.length; place++) {
        ofRank[(int) ranks.get(place)] += ofSpelling[place];
      }
    } else {
      countSeveral(scan, docs, ranks, ofSpelling, ofRank);
    }
    for (Dictionary.Walk walk = values.walk(); walk.next() && budget.step(); ) {
      int place = walk.place();
      if (ofSpelling[place] == 0) {
        continue;
      }
      String text = new String(walk.term(), StandardCharsets.UTF_8);
      Counted one = counted.computeIfAbsent(Folding.foldCase(text), folded -> new Counted());
      one.spellings.add(text, ofSpelling[place]);
      int rank = (int) ranks.get(place);
      // Once for all spellings of this segment.
      one.documents += ofRank[rank];
      ofRank[rank] = 0;
      refuseTooMany();
    }
  }

  private void refuseTooMany() {
    if (counted.size() > MAX_VALUES) {
      throw new QueryRefusedException(
          "facet '%s' has more than %d values".formatted(request.name(), MAX_VALUES));
    }
  }

  @Override
  public FacetPart part() {
    Map<String, FacetPart.Ways> all = new HashMap<>();
    counted.forEach((folded, one) -> all.put(folded, one.spellings.ways(one.documents)));
    return new FacetPart.Spelt(all);
  }

  @Override
  public void add(FacetPart part) {
    ((FacetPart.Spelt) part)
        .counts()
        .forEach(
            (folded, theirs) -> {
              Counted own = counted.computeIfAbsent(folded, value -> new Counted());
              own.spellings.add(theirs);
              own.documents += theirs.count();
            });
    refuseTooMany();
  }

  /** A document with several spellings of a value counts once. */
  private static void countSeveral(
      ColumnScan scan, DocBits docs, PackedNumbers ranks, int[] ofSpelling, int[] ofRank) {
    int[] lastDoc = new int[ofRank.length];
    Arrays.fill(lastDoc, -1);
    scan.forEach(
        docs,
        (doc, places, from, end) -> {
          for (int i = from; i < end; i++) {
            ofSpelling[(int) places[i]]++;
            int rank = (int) ranks.get(places[i]);
            if (lastDoc[rank] != doc) {
              lastDoc[rank] = doc;
              ofRank[rank]++;
            }
          }
        });
  }

  @Override
  public FacetResult result() {
    Map<String, Object> chosen = new HashMap<>();
    for (Object value : request.chosen()) {
      chosen.putIfAbsent(field.term((String) value), value);
    }
    String search = Folding.foldCase(request.search());
    List<FacetResult.Value> values = new ArrayList<>();
    counted.forEach(
        (folded, one) -> {
          boolean isChosen = chosen.remove(folded) != null;
          String shown = one.spellings.shown();
          if (isChosen || TextValues.hasWord(shown, search)) {
            values.add(new FacetResult.Value(shown, one.documents, isChosen));
          }
        });
    return ValueOrder.result(request, List.copyOf(chosen.values()), field, values);
  }
}
