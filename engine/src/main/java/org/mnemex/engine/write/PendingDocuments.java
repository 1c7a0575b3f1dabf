package org.mnemex.engine.write;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.Document;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.StoredCodec;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.text.Folding;
import org.mnemex.engine.text.Token;

/** Documents that were put but are in no segment yet, already analysed. */
final class PendingDocuments implements SegmentContent {
  /** Between two values of a field lie this many positions, so that no phrase spans them. */
  private static final int POSITION_GAP = 100;

  private final Schema schema;
  private final List<byte[]> keys = new ArrayList<>();
  private final List<Long> hashes = new ArrayList<>();
  private final List<byte[]> stored = new ArrayList<>();
  private final Map<String, Integer> docByKey = new HashMap<>();
  private final Map<String, FieldContent> fields = new HashMap<>();
  private long bytes;

  PendingDocuments(Schema schema) {
    this.schema = schema;
    schema.fields().forEach(field -> fields.put(field.name(), new FieldContent()));
  }

  /** Adds a document, in place of an earlier one of the same key. */
  void add(Document document) {
    int doc = keys.size();
    byte[] storedBytes = StoredCodec.encode(document, schema);
    keys.add(document.key().getBytes(StandardCharsets.UTF_8));
    hashes.add(document.hash());
    stored.add(storedBytes);
    docByKey.put(document.key(), doc);
    bytes += storedBytes.length + 100;
    for (Field field : schema.fields()) {
      List<Object> values = document.fields().getOrDefault(field.name(), List.of());
      if (!values.isEmpty()) {
        bytes += of(field).add(field, doc, values);
      }
    }
  }

  /** Forgets the document of a key; whether there was one. */
  boolean remove(String key) {
    return docByKey.remove(key) != null;
  }

  boolean isEmpty() {
    return docByKey.isEmpty();
  }

  /** Estimate of the heap in use. */
  long bytes() {
    return bytes;
  }

  /** The documents that were replaced or removed since, null if none were. */
  @Nullable DocBits gone() {
    if (docByKey.size() == keys.size()) {
      return null;
    }
    DocBits gone = DocBits.all(keys.size());
    docByKey.values().forEach(gone::clear);
    return gone;
  }

  @Override
  public int documents() {
    return keys.size();
  }

  @Override
  public byte[] key(int doc) {
    return keys.get(doc);
  }

  @Override
  public long hash(int doc) {
    return hashes.get(doc);
  }

  @Override
  public byte[] stored(int doc) {
    return stored.get(doc);
  }

  @Override
  public TermCursor terms(Field field) {
    Map<String, TermDocs> terms = of(field).terms;
    List<Map.Entry<byte[], TermDocs>> sorted = new ArrayList<>(terms.size());
    terms.forEach(
        (term, docs) -> sorted.add(Map.entry(term.getBytes(StandardCharsets.UTF_8), docs)));
    sorted.sort((a, b) -> Arrays.compareUnsigned(a.getKey(), b.getKey()));
    return new TermCursor() {
      private int at = -1;

      @Override
      public boolean next() {
        return ++at < sorted.size();
      }

      @Override
      public byte[] term() {
        return sorted.get(at).getKey();
      }

      @Override
      public void postings(PostingSink sink) {
        sorted.get(at).getValue().forEach(sink);
      }
    };
  }

  @Override
  public int length(Field field, int doc) {
    return of(field).lengths.getOrDefault(doc, 0);
  }

  @Override
  public long[] numbers(Field field, int doc) {
    return of(field).numbers.getOrDefault(doc, new long[0]);
  }

  @Override
  public List<byte[]> values(Field field) {
    return of(field).sortedValues();
  }

  @Override
  public int[] ordinals(Field field, int doc) {
    return of(field).ordinals(doc);
  }

  private FieldContent of(Field field) {
    FieldContent content = fields.get(field.name());
    if (content == null) {
      throw new IllegalArgumentException("field '" + field.name() + "' is not in the schema");
    }
    return content;
  }

  /** One field of all pending documents. */
  private static final class FieldContent {
    final Map<String, TermDocs> terms = new HashMap<>();
    final Map<Integer, Integer> lengths = new HashMap<>();
    final Map<Integer, long[]> numbers = new HashMap<>();
    final Map<Integer, List<String>> texts = new HashMap<>();
    private @Nullable List<byte[]> sortedValues;
    private Map<String, Integer> ordinalByValue = Map.of();

    long add(Field field, int doc, Collection<Object> values) {
      return switch (field.type()) {
        case TEXT -> field.hasTerms() ? addText(field, doc, values) : 0;
        case EXACT -> addExact(field, doc, values);
        case INTEGER, DATE, BOOLEAN -> {
          long[] all = values.stream().mapToLong(field.type()::toNumber).sorted().toArray();
          numbers.put(doc, all);
          yield 32 + 8L * all.length;
        }
      };
    }

    private long addText(Field field, int doc, Collection<Object> values) {
      TextSink sink = new TextSink(doc);
      for (Object value : values) {
        if (field.analyser() != null) {
          field.analyser().analyse((String) value, sink);
        }
        sink.endValue();
      }
      if (sink.tokens > 0) {
        lengths.put(doc, sink.tokens);
      }
      return 32L * sink.tokens;
    }

    private long addExact(Field field, int doc, Collection<Object> values) {
      Set<String> distinct = new TreeSet<>();
      Set<String> folded = new HashSet<>();
      long size = 0;
      for (Object value : values) {
        String text = (String) value;
        if (!distinct.add(text)) {
          continue;
        }
        size += 64 + 2L * text.length();
        String term = field.fold() ? Folding.foldCase(text) : text;
        if (field.hasTerms() && folded.add(term)) {
          terms.computeIfAbsent(term, t -> new TermDocs()).add(doc, 0);
        }
      }
      if (field.hasColumn()) {
        texts.put(doc, List.copyOf(distinct));
        sortedValues = null;
      }
      return size;
    }

    List<byte[]> sortedValues() {
      List<byte[]> sorted = sortedValues;
      if (sorted == null) {
        sorted =
            texts.values().stream()
                .flatMap(List::stream)
                .distinct()
                .map(value -> value.getBytes(StandardCharsets.UTF_8))
                .sorted(Arrays::compareUnsigned)
                .toList();
        Map<String, Integer> ordinals = new HashMap<>();
        for (int i = 0; i < sorted.size(); i++) {
          ordinals.put(new String(sorted.get(i), StandardCharsets.UTF_8), i);
        }
        sortedValues = sorted;
        ordinalByValue = ordinals;
      }
      return sorted;
    }

    int[] ordinals(int doc) {
      sortedValues();
      return texts.getOrDefault(doc, List.of()).stream()
          .mapToInt(value -> ordinalByValue.getOrDefault(value, 0))
          .sorted()
          .toArray();
    }

    /** Takes the tokens of one document's values. */
    private final class TextSink implements org.mnemex.engine.text.TokenSink {
      private final int doc;
      private int base;
      private int last = -1;
      int tokens;

      TextSink(int doc) {
        this.doc = doc;
      }

      @Override
      public void accept(Token token) {
        last = base + token.position();
        terms.computeIfAbsent(token.text(), t -> new TermDocs()).add(doc, last);
        tokens++;
      }

      void endValue() {
        base = last + 1 + POSITION_GAP;
      }
    }
  }

  /** The documents of one term: doc, freq, positions, doc, freq, positions, … */
  private static final class TermDocs {
    private int[] data = new int[4];
    private int used;
    private int freqAt = -1;

    void add(int doc, int position) {
      if (freqAt < 0 || data[freqAt - 1] != doc) {
        push(doc);
        freqAt = used;
        push(0);
      }
      data[freqAt]++;
      push(position);
    }

    void forEach(PostingSink sink) {
      for (int at = 0; at < used; ) {
        int doc = data[at];
        int freq = data[at + 1];
        sink.accept(doc, freq, Arrays.copyOfRange(data, at + 2, at + 2 + freq));
        at += 2 + freq;
      }
    }

    private void push(int value) {
      if (used == data.length) {
        data = Arrays.copyOf(data, 2 * used);
      }
      data[used++] = value;
    }
  }
}
