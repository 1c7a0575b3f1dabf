package org.mnemex.engine.search;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.LengthCode;
import org.mnemex.engine.read.SegmentReader;

/**
 * A word or phrase over several fields, scored as one: BM25 with field weights after Robertson,
 * Zaragoza and Taylor, "Simple BM25 Extension to Multiple Weighted Fields" (CIKM 2004). Frequencies
 * are normalised by field length, weighted and added up before they saturate, so that a word that
 * stands in two fields, or in two forms, counts once.
 */
final class WordMatcher extends Matcher {
  /** Saturation of frequency and influence of length, the usual values of the literature. */
  static final double K1 = 1.2;

  static final double B = 0.75;

  private final FieldPart[] parts;
  private final double idf;

  WordMatcher(List<FieldPart> parts, double idf) {
    this.parts = parts.toArray(FieldPart[]::new);
    this.idf = idf;
  }

  /** Inverse document frequency; always above 0. */
  static double idf(long documents, long having) {
    long bounded = Math.min(having, documents);
    return Math.log(1 + (documents - bounded + 0.5) / (bounded + 0.5));
  }

  /** What a frequency, normalised and weighted, is worth. */
  static double score(double idf, double frequency) {
    return idf * frequency * (K1 + 1) / (K1 + frequency);
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
        frequency += part.frequency(doc);
      }
    }
    return score(idf, frequency);
  }

  @Override
  double limit() {
    double frequency = 0;
    for (FieldPart part : parts) {
      if (part.occurrences.doc() == doc) {
        frequency += part.occurrences.limit(part.factors);
      }
    }
    return score(idf, frequency) * SLACK;
  }

  @Override
  double bound() {
    double frequency = 0;
    for (FieldPart part : parts) {
      frequency += part.occurrences.bound(part.factors);
    }
    return score(idf, frequency) * SLACK;
  }

  @Override
  double bound(int from, int to) {
    double frequency = 0;
    for (FieldPart part : parts) {
      frequency += part.occurrences.bound(from, to, part.factors);
    }
    return score(idf, frequency) * SLACK;
  }

  @Override
  int blockEnd(int from) {
    int end = END;
    for (FieldPart part : parts) {
      end = Math.min(end, part.occurrences.blockEnd(from));
    }
    return end;
  }

  @Override
  long cost() {
    long cost = 0;
    for (FieldPart part : parts) {
      cost += part.occurrences.cost();
    }
    return cost;
  }

  /** Weight over length norm, by length code. */
  static double[] factors(double weight, double averageLength) {
    double[] factors = new double[LengthCode.CODES];
    for (int code = 0; code < factors.length; code++) {
      factors[code] = weight / (1 - B + B * LengthCode.length(code) / averageLength);
    }
    return factors;
  }

  /** The weight for every code: fields without length. */
  static double[] factors(double weight) {
    double[] factors = new double[LengthCode.CODES];
    java.util.Arrays.fill(factors, weight);
    return factors;
  }

  /**
   * The word in one field.
   *
   * @param lengths null for fields without length
   * @param factors weight over norm, by length code
   */
  record FieldPart(
      Occurrences occurrences, SegmentReader.@Nullable Lengths lengths, double[] factors) {
    /** Frequency in the current document, normalised and weighted. */
    double frequency(int doc) {
      return occurrences.freq() * factors[lengths == null ? 0 : lengths.code(doc)];
    }
  }
}
