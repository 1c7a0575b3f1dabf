package org.mnemex.engine.write;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import java.util.function.IntUnaryOperator;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Several contents one after another, without their deleted documents. Nothing is analysed again:
 * postings are renumbered, stored blocks without deletions are copied, everything else is streamed.
 */
final class MergedContent implements SegmentContent {
  private final Schema schema;
  private final List<Part> parts = new ArrayList<>();
  private final Map<String, RowMap> rowMaps = new HashMap<>();
  private int[] partOf = new int[16];
  private int[] docOf = new int[16];
  private int documents;

  MergedContent(Schema schema) {
    this.schema = schema;
  }

  /** Appends {@code content} without the documents in {@code deleted}. */
  void add(SegmentContent content, @Nullable DocBits deleted) {
    int[] newDoc = new int[content.documents()];
    for (int doc = 0; doc < newDoc.length; doc++) {
      if (deleted != null && deleted.get(doc)) {
        newDoc[doc] = -1;
        continue;
      }
      if (documents == partOf.length) {
        partOf = Arrays.copyOf(partOf, 2 * documents);
        docOf = Arrays.copyOf(docOf, 2 * documents);
      }
      partOf[documents] = parts.size();
      docOf[documents] = doc;
      newDoc[doc] = documents++;
    }
    parts.add(new Part(content, newDoc, deleted));
  }

  /** The new number of a document of a part, or -1 if it was deleted. */
  int newDoc(int part, int doc) {
    return parts.get(part).newDoc[doc];
  }

  @Override
  public int documents() {
    return documents;
  }

  @Override
  public KeyWalk keys() {
    KeyWalk[] walks = parts.stream().map(part -> part.content.keys()).toArray(KeyWalk[]::new);
    PriorityQueue<Integer> queue =
        new PriorityQueue<>((a, b) -> Arrays.compareUnsigned(walks[a].key(), walks[b].key()));
    for (int part = 0; part < walks.length; part++) {
      if (nextLive(walks[part], part)) {
        queue.add(part);
      }
    }
    return new KeyWalk() {
      private int current = -1;

      @Override
      public boolean next() {
        if (current >= 0 && nextLive(walks[current], current)) {
          queue.add(current);
        }
        Integer least = queue.poll();
        current = least == null ? -1 : least;
        return least != null;
      }

      @Override
      public byte[] key() {
        return walks[current].key();
      }

      @Override
      public int doc() {
        return newDoc(current, walks[current].doc());
      }
    };
  }

  private boolean nextLive(KeyWalk walk, int part) {
    while (walk.next()) {
      if (newDoc(part, walk.doc()) >= 0) {
        return true;
      }
    }
    return false;
  }

  @Override
  public long hash(int doc) {
    return parts.get(partOf[doc]).content.hash(docOf[doc]);
  }

  @Override
  public void stored(StoredSink sink) throws IOException {
    for (Part part : parts) {
      if (part.deleted == null) {
        part.content.stored(sink);
      } else if (part.content instanceof ReaderContent reader) {
        reader.storedOneByOne(sink, doc -> part.newDoc[doc] >= 0);
      } else {
        part.content.stored(new LiveOnly(sink, part.newDoc));
      }
    }
  }

  @Override
  public IntUnaryOperator lengthCodes(Field field) {
    IntUnaryOperator[] codes =
        parts.stream()
            .map(part -> part.content.lengthCodes(field))
            .toArray(IntUnaryOperator[]::new);
    RowMap map = rowMap(field);
    return row -> codes[map.partOf[row]].applyAsInt(map.rowOf[row]);
  }

  @Override
  public IntUnaryOperator childRows(Field group) {
    IntUnaryOperator[] counts =
        parts.stream().map(part -> part.content.childRows(group)).toArray(IntUnaryOperator[]::new);
    return doc -> counts[partOf[doc]].applyAsInt(docOf[doc]);
  }

  @Override
  public ValueWalk values(Field field) {
    return new MergedValues(field, null);
  }

  @Override
  public Rows column(Field field) {
    Rows[] columns = parts.stream().map(part -> part.content.column(field)).toArray(Rows[]::new);
    Rows merged = rows(field, columns);
    RowMap map = rowMap(field);
    if (!field.type().isOrdinal()) {
      return merged;
    }
    List<int[]> places = new ArrayList<>();
    MergedValues values = new MergedValues(field, places);
    while (values.next()) {
      // Walking fills in the places.
    }
    return new Rows() {
      @Override
      public int rows() {
        return merged.rows();
      }

      @Override
      public int count(int row) {
        return merged.count(row);
      }

      @Override
      public long value(int row, int which) {
        int part = map.partOf[row];
        return places.get(part)[(int) merged.value(row, which)];
      }
    };
  }

  @Override
  public Rows places(Field field, boolean latitude) {
    return rows(
        field,
        parts.stream().map(part -> part.content.places(field, latitude)).toArray(Rows[]::new));
  }

  private Rows rows(Field field, Rows[] columns) {
    RowMap map = rowMap(field);
    return new Rows() {
      @Override
      public int rows() {
        return map.rows;
      }

      @Override
      public int count(int row) {
        return columns[map.partOf[row]].count(map.rowOf[row]);
      }

      @Override
      public long value(int row, int which) {
        return columns[map.partOf[row]].value(map.rowOf[row], which);
      }
    };
  }

  /** Rows are documents, except for the fields of a group, whose rows are the child rows. */
  private RowMap rowMap(Field field) {
    if (!field.isChild()) {
      return new RowMap(
          documents, partOf, docOf, parts.stream().map(Part::newDoc).toArray(int[][]::new));
    }
    String group = field.name().substring(0, field.name().indexOf('.'));
    return rowMaps.computeIfAbsent(group, this::childRowMap);
  }

  private RowMap childRowMap(String groupName) {
    Field group = schema.field(groupName);
    IntUnaryOperator[] counts =
        parts.stream().map(part -> part.content.childRows(group)).toArray(IntUnaryOperator[]::new);
    int[][] newRow = new int[counts.length][];
    int[] rowPart = new int[16];
    int[] rowIn = new int[16];
    int rows = 0;
    for (int part = 0; part < counts.length; part++) {
      int[] newDoc = parts.get(part).newDoc;
      newRow[part] = new int[IntStream.range(0, newDoc.length).map(counts[part]).sum()];
      Arrays.fill(newRow[part], -1);
      int row = 0;
      for (int doc = 0; doc < newDoc.length; doc++) {
        int count = counts[part].applyAsInt(doc);
        for (int i = 0; newDoc[doc] >= 0 && i < count; i++) {
          newRow[part][row + i] = rows;
          if (rows == rowPart.length) {
            rowPart = Arrays.copyOf(rowPart, 2 * rows);
            rowIn = Arrays.copyOf(rowIn, 2 * rows);
          }
          rowPart[rows] = part;
          rowIn[rows++] = row + i;
        }
        row += count;
      }
    }
    return new RowMap(rows, rowPart, rowIn, newRow);
  }

  /**
   * Where the rows of a field come from.
   *
   * @param partOf by row
   * @param rowOf by row, its number in its part
   * @param newRow by part and number there, the row or -1 if its document was deleted
   */
  private record RowMap(int rows, int[] partOf, int[] rowOf, int[][] newRow) {}

  @Override
  public TermWalk terms(Field field) {
    return new MergedTerms(field);
  }

  private record Part(SegmentContent content, int[] newDoc, @Nullable DocBits deleted) {}

  /** Passes on the documents that are not deleted. */
  private static final class LiveOnly implements StoredSink {
    private final StoredSink next;
    private final int[] newDoc;
    private int doc;

    LiveOnly(StoredSink next, int[] newDoc) {
      this.next = next;
      this.newDoc = newDoc;
    }

    @Override
    public void document(byte[] bytes) throws IOException {
      if (newDoc[doc++] >= 0) {
        next.document(bytes);
      }
    }

    @Override
    public void block(byte[] raw, int count) {
      throw new IllegalStateException("pending documents have no blocks");
    }
  }

  /** All parts' values in order, each once; fills in where each part's values come to stand. */
  private final class MergedValues implements ValueWalk {
    private final ValueWalk[] walks;
    private final PriorityQueue<Integer> queue;
    private final List<Integer> current = new ArrayList<>();
    private final @Nullable List<int[]> places;
    private final int[] at;
    private byte[] value = new byte[0];
    private int place = -1;

    MergedValues(Field field, @Nullable List<int[]> places) {
      this.places = places;
      walks = parts.stream().map(part -> part.content.values(field)).toArray(ValueWalk[]::new);
      at = new int[walks.length];
      Arrays.fill(at, -1);
      queue =
          new PriorityQueue<>((a, b) -> Arrays.compareUnsigned(walks[a].value(), walks[b].value()));
      for (int part = 0; part < walks.length; part++) {
        current.add(part);
        if (places != null) {
          places.add(new int[16]);
        }
      }
    }

    @Override
    public boolean next() {
      for (int part : current) {
        if (walks[part].next()) {
          at[part]++;
          queue.add(part);
        }
      }
      current.clear();
      Integer first = queue.poll();
      if (first == null) {
        return false;
      }
      value = walks[first].value();
      place++;
      take(first);
      while (!queue.isEmpty() && Arrays.equals(walks[queue.element()].value(), value)) {
        take(queue.remove());
      }
      return true;
    }

    private void take(int part) {
      current.add(part);
      if (places != null) {
        int[] map = places.get(part);
        if (at[part] == map.length) {
          map = Arrays.copyOf(map, 2 * map.length);
          places.set(part, map);
        }
        map[at[part]] = place;
      }
    }

    @Override
    public byte[] value() {
      return value;
    }
  }

  /** All parts' terms in order; a term's rows come part after part, so they stay in order. */
  private final class MergedTerms implements TermWalk {
    private final TermWalk[] walks;
    private final PriorityQueue<Integer> queue;
    private final List<Integer> current = new ArrayList<>();
    private final byte[][] terms;
    private final int[][] newRow;
    private byte[] term = new byte[0];

    MergedTerms(Field field) {
      walks = parts.stream().map(part -> part.content.terms(field)).toArray(TermWalk[]::new);
      terms = new byte[walks.length][];
      newRow = rowMap(field).newRow;
      queue =
          new PriorityQueue<>(
              (a, b) -> {
                int byTerm = Arrays.compareUnsigned(terms[a], terms[b]);
                return byTerm != 0 ? byTerm : Integer.compare(a, b);
              });
      for (int part = 0; part < walks.length; part++) {
        current.add(part);
      }
    }

    @Override
    public boolean next() {
      for (int part : current) {
        if (walks[part].next()) {
          terms[part] = walks[part].term();
          queue.add(part);
        }
      }
      current.clear();
      Integer first = queue.poll();
      if (first == null) {
        return false;
      }
      term = terms[first];
      current.add(first);
      while (!queue.isEmpty() && Arrays.equals(terms[queue.element()], term)) {
        current.add(queue.remove());
      }
      return true;
    }

    @Override
    public byte[] term() {
      return term;
    }

    @Override
    public void postings(PostingSink sink) throws IOException {
      for (int part : current) {
        int[] renumbered = newRow[part];
        walks[part].postings(
            (row, freq, positions) -> {
              if (renumbered[row] >= 0) {
                sink.accept(renumbered[row], freq, positions);
              }
            });
      }
    }
  }
}
