package org.mnemex.bench.engine;

import java.io.IOException;
import java.nio.file.Path;
import java.util.Map;
import java.util.TreeMap;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.Postings;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.SegmentLayout;

/**
 * What an index takes on the disk, by part, and what its postings would take at best.
 *
 * @param bytes everything but stored records
 * @param entropyBytes entropy of the gaps between documents, taken as independent (geometric with
 *     the term's share of documents), and of the frequencies of each field
 */
record IndexSize(
    double bytes,
    double postings,
    double positions,
    double terms,
    double columns,
    double keys,
    double entropyBytes) {

  static IndexSize of(Path folder, Schema schema) throws IOException {
    Map<Integer, Long> byKind = new TreeMap<>();
    double entropyBits = 0;
    try (EditionFolder edition = EditionFolder.open(folder, schema)) {
      for (SegmentView view : edition.snapshot().segments()) {
        view.reader().file().bytesByKind().forEach((kind, b) -> byKind.merge(kind, b, Long::sum));
        for (Field field : schema.fields()) {
          if (field.hasTerms()) {
            entropyBits += entropyBits(view.reader(), field);
          }
        }
      }
    }
    double all = byKind.values().stream().mapToLong(Long::longValue).sum();
    double stored =
        byKind.getOrDefault(SegmentLayout.STORED, 0L)
            + byKind.getOrDefault(SegmentLayout.STORED_BLOCKS, 0L);
    return new IndexSize(
        all - stored,
        sum(byKind, SegmentLayout.POSTINGS, SegmentLayout.POSTINGS),
        sum(byKind, SegmentLayout.POSITIONS, SegmentLayout.POSITIONS),
        sum(byKind, SegmentLayout.TERMS, SegmentLayout.TERMS),
        sum(byKind, SegmentLayout.COLUMN, SegmentLayout.GROUP_FIRSTS)
            + sum(byKind, SegmentLayout.LENGTHS, SegmentLayout.LENGTHS),
        sum(byKind, SegmentLayout.KEYS, SegmentLayout.HASHES)
            + sum(byKind, SegmentLayout.KEY_FILTER, SegmentLayout.KEY_FILTER),
        entropyBits / 8);
  }

  private static double sum(Map<Integer, Long> byKind, int from, int to) {
    double sum = 0;
    for (Map.Entry<Integer, Long> entry : byKind.entrySet()) {
      sum += entry.getKey() >= from && entry.getKey() <= to ? entry.getValue() : 0;
    }
    return sum;
  }

  private static double entropyBits(SegmentReader segment, Field field) {
    double bits = 0;
    long[] freqs = new long[256];
    long total = 0;
    Dictionary.Walk walk = segment.terms(field).walk();
    while (walk.next()) {
      long having = walk.number(0);
      if (walk.number(3) > 0) {
        // Terms that stand once are in the dictionary, not in the postings.
        continue;
      }
      double p = Math.min(1 - 1e-9, (double) having / segment.documents());
      bits += having * (-p * log2(p) - (1 - p) * log2(1 - p)) / p;
      if (field.type() == FieldType.TEXT) {
        Postings postings = segment.postings(field, walk, false);
        while (postings.next() != Postings.END) {
          freqs[Math.min(255, postings.freq())]++;
          total++;
        }
      }
    }
    for (long count : freqs) {
      if (count > 0) {
        bits -= count * log2((double) count / total);
      }
    }
    return bits;
  }

  private static double log2(double x) {
    return Math.log(x) / Math.log(2);
  }
}
