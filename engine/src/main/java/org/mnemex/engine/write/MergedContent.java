package org.mnemex.engine.write;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.schema.Field;

/**
 * Several contents behind one another, without their deleted documents. Nothing is analysed again:
 * postings are renumbered, everything else is copied.
 */
final class MergedContent implements SegmentContent {
  private final List<Part> parts = new ArrayList<>();
  private final Map<String, MergedValues> values = new HashMap<>();
  private int[] partOf = new int[16];
  private int[] docOf = new int[16];
  private int documents;

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
    parts.add(new Part(content, newDoc));
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
  public byte[] key(int doc) {
    return content(doc).key(docOf[doc]);
  }

  @Override
  public long hash(int doc) {
    return content(doc).hash(docOf[doc]);
  }

  @Override
  public byte[] stored(int doc) {
    return content(doc).stored(docOf[doc]);
  }

  @Override
  public int length(Field field, int doc) {
    return content(doc).length(field, docOf[doc]);
  }

  @Override
  public long[] numbers(Field field, int doc) {
    return content(doc).numbers(field, docOf[doc]);
  }

  @Override
  public List<byte[]> values(Field field) {
    return merged(field).values;
  }

  @Override
  public int[] ordinals(Field field, int doc) {
    int[] map = merged(field).ordinalMaps.get(partOf[doc]);
    int[] out = content(doc).ordinals(field, docOf[doc]);
    for (int i = 0; i < out.length; i++) {
      out[i] = map[out[i]];
    }
    return out;
  }

  @Override
  public TermCursor terms(Field field) {
    return new MergedTerms(field);
  }

  private SegmentContent content(int doc) {
    return parts.get(partOf[doc]).content;
  }

  private MergedValues merged(Field field) {
    return values.computeIfAbsent(field.name(), name -> mergeValues(field));
  }

  private MergedValues mergeValues(Field field) {
    List<List<byte[]>> sources = parts.stream().map(part -> part.content.values(field)).toList();
    List<int[]> maps = sources.stream().map(source -> new int[source.size()]).toList();
    PriorityQueue<ValueCursor> queue =
        new PriorityQueue<>((a, b) -> Arrays.compareUnsigned(a.value, b.value));
    for (int part = 0; part < sources.size(); part++) {
      if (!sources.get(part).isEmpty()) {
        queue.add(new ValueCursor(part, 0, sources.get(part).getFirst()));
      }
    }
    List<byte[]> merged = new ArrayList<>();
    while (!queue.isEmpty()) {
      ValueCursor least = queue.remove();
      if (merged.isEmpty() || !Arrays.equals(merged.getLast(), least.value)) {
        merged.add(least.value);
      }
      maps.get(least.part)[least.place] = merged.size() - 1;
      int next = least.place + 1;
      if (next < sources.get(least.part).size()) {
        queue.add(new ValueCursor(least.part, next, sources.get(least.part).get(next)));
      }
    }
    return new MergedValues(merged, maps);
  }

  private record Part(SegmentContent content, int[] newDoc) {}

  private record MergedValues(List<byte[]> values, List<int[]> ordinalMaps) {}

  private record ValueCursor(int part, int place, byte[] value) {}

  /** All parts' terms in order; a term's documents come part after part, so they stay in order. */
  private final class MergedTerms implements TermCursor {
    private final TermCursor[] cursors;
    private final PriorityQueue<Integer> queue;
    private final List<Integer> current = new ArrayList<>();
    private byte[] term = new byte[0];

    MergedTerms(Field field) {
      cursors = parts.stream().map(part -> part.content.terms(field)).toArray(TermCursor[]::new);
      queue =
          new PriorityQueue<>(
              (a, b) -> {
                int byTerm = Arrays.compareUnsigned(cursors[a].term(), cursors[b].term());
                return byTerm != 0 ? byTerm : Integer.compare(a, b);
              });
      for (int part = 0; part < cursors.length; part++) {
        current.add(part);
      }
    }

    @Override
    public boolean next() {
      for (int part : current) {
        if (cursors[part].next()) {
          queue.add(part);
        }
      }
      current.clear();
      Integer first = queue.poll();
      if (first == null) {
        return false;
      }
      term = cursors[first].term();
      current.add(first);
      while (!queue.isEmpty() && Arrays.equals(cursors[queue.element()].term(), term)) {
        current.add(queue.remove());
      }
      return true;
    }

    @Override
    public byte[] term() {
      return term;
    }

    @Override
    public void postings(PostingSink sink) {
      for (int part : current) {
        int[] newDoc = parts.get(part).newDoc;
        cursors[part].postings(
            (doc, freq, positions) -> {
              if (newDoc[doc] >= 0) {
                sink.accept(newDoc[doc], freq, positions);
              }
            });
      }
    }
  }
}
