package org.mnemex.engine.search;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.SegmentReader;

/**
 * A word or phrase over several fields, scored as one: BM25 with field weights after Robertson,
 * Zaragoza and Taylor, "Simple BM25 Extension to Multiple Weighted Fields" (CIKM 2004). Frequencies
 * are normalised by field length, weighted and added up before they saturate, so that a word that
 * stands in two fields counts once.
 */
final class WordMatcher extends Matcher {
  /** Saturation of frequency and influence of length, the usual values of the literature. */
  static final double K1 = 1.2;

  static final double B = 0.75;

  private final List<FieldPart> parts;
  private final double idf;

  WordMatcher(List<FieldPart> parts, double idf) {
    this.parts = parts;
    this.idf = idf;
  }

  /** Inverse document frequency; always above 0. */
  static double idf(long documents, long having) {
    long bounded = Math.min(having, documents);
    return Math.log(1 + (documents - bounded + 0.5) / (bounded + 0.5));
  }

  @Override
  int next() {
    int least = END;
    for (FieldPart part : parts) {
      Occurrences in = part.occurrences;
      int at = in.doc() <= doc ? in.next() : in.doc();
      least = Math.min(least, at);
    }
    return doc = least;
  }

  @Override
  int advance(int target) {
    if (doc < target) {
      int least = END;
      for (FieldPart part : parts) {
        least = Math.min(least, part.occurrences.advance(target));
      }
      doc = least;
    }
    return doc;
  }

  @Override
  double score() {
    double frequency = 0;
    for (FieldPart part : parts) {
      if (part.occurrences.doc() == doc) {
        frequency += part.weight * part.occurrences.freq() / part.norm(doc);
      }
    }
    return idf * frequency * (K1 + 1) / (K1 + frequency);
  }

  /**
   * The word in one field.
   *
   * @param lengths null for fields without length, whose norm is 1
   * @param averageLength over the edition's documents that have the field
   */
  record FieldPart(
      Occurrences occurrences,
      double weight,
      SegmentReader.@Nullable Lengths lengths,
      double averageLength) {
    double norm(int doc) {
      return lengths == null ? 1 : 1 - B + B * lengths.of(doc) / averageLength;
    }
  }
}
