package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.LengthCode;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.DocBits;
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

  /** How many documents have a word of some inverse document frequency, about. */
  static long having(long documents, double idf) {
    return Math.max(0, Math.round((documents + 1) / Math.exp(idf) - 0.5));
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
    return score(idf, frequency());
  }

  /**
   * Frequency in the current document, normalised and weighted. Within a field frequencies are
   * added up first: so the sum does not depend on whether terms are walked side by side or not.
   */
  private double frequency() {
    double frequency = 0;
    double inField = 0;
    FieldPart before = parts[0];
    for (FieldPart part : parts) {
      if (part.field != before.field) {
        frequency += before.normalised(inField, doc);
        inField = 0;
        before = part;
      }
      if (part.occurrences.doc() == doc) {
        inField += part.strength * part.occurrences.freq();
      }
    }
    return frequency + before.normalised(inField, doc);
  }

  /**
   * The summands of a document's frequency.
   *
   * @param part one of the field's parts
   * @param frequency in the field
   * @param value normalised and weighted
   */
  record InField(FieldPart part, double frequency, double value) {}

  /** What a document's frequency is the sum of, field by field. */
  static List<InField> inFields(List<FieldPart> parts, int doc) {
    List<InField> fields = new ArrayList<>();
    double inField = 0;
    for (int i = 0; i < parts.size(); i++) {
      FieldPart part = parts.get(i);
      if (part.occurrences.advance(doc) == doc) {
        inField += part.strength * part.occurrences.freq();
      }
      if (i + 1 == parts.size() || parts.get(i + 1).field != part.field) {
        if (inField > 0) {
          fields.add(new InField(part, inField, part.normalised(inField, doc)));
        }
        inField = 0;
      }
    }
    return fields;
  }

  @Override
  double limit() {
    double frequency = 0;
    for (FieldPart part : parts) {
      if (part.occurrences.doc() == doc) {
        frequency += part.strength * part.occurrences.limit(part.factors);
      }
    }
    return score(idf, frequency) * SLACK;
  }

  @Override
  double bound() {
    double frequency = 0;
    for (FieldPart part : parts) {
      frequency += part.strength * part.occurrences.bound(part.factors);
    }
    return score(idf, frequency) * SLACK;
  }

  @Override
  double bound(int from, int to) {
    double frequency = 0;
    for (FieldPart part : parts) {
      frequency += part.strength * part.occurrences.bound(from, to, part.factors);
    }
    return score(idf, frequency) * SLACK;
  }

  @Override
  boolean hasCheapBounds() {
    return Arrays.stream(parts).allMatch(part -> part.occurrences.hasCheapBounds());
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

  @Override
  void addTo(DocBits bits, Budget budget) {
    for (FieldPart part : parts) {
      if (!budget.mayContinue((int) Math.min(part.occurrences.cost(), bits.size()))) {
        return;
      }
      part.occurrences.addTo(bits);
    }
  }

  @Override
  boolean addsBlocks() {
    return Arrays.stream(parts).allMatch(part -> part.occurrences.addsBlocks());
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
    Arrays.fill(factors, weight);
    return factors;
  }

  /**
   * The word in one field, or one form of it there.
   *
   * @param field the same number for all forms in a field, of which nobody else has it
   * @param name of the field
   * @param lengths null for fields without length
   * @param factors weight over norm, by length code
   * @param strength what one occurrence counts: 1, or a power of two below
   */
  record FieldPart(
      int field,
      String name,
      Occurrences occurrences,
      SegmentReader.@Nullable Lengths lengths,
      double[] factors,
      double strength) {
    private double normalised(double frequency, int doc) {
      return frequency == 0 ? 0 : frequency * factors[lengths == null ? 0 : lengths.code(doc)];
    }
  }
}
