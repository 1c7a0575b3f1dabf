package org.mnemex.engine;

import java.time.Instant;
import org.mnemex.engine.schema.Place;

/**
 * A number of a document that multiplies its relevance: {@code relevance × (1 + weight × value)}. A
 * document without the field has value 0.
 */
public sealed interface Signal {
  String field();

  double weight();

  /** {@code ln(1 + x)} of the greatest value x; below 0 counts as 0. */
  record Logarithm(String field, double weight) implements Signal {}

  /** {@code x / (x + half)}: rises quickly at first, reaches one half at {@code half}. */
  record Saturating(String field, double weight, double half) implements Signal {}

  /** {@code 2^(-age / halfLifeDays)} of a date or instant; the future counts as now. */
  record Age(String field, double weight, double halfLifeDays, Instant now) implements Signal {}

  /** {@code 2^(-metres / halfMetres)} of a place. */
  record Distance(String field, double weight, double halfMetres, Place from) implements Signal {}
}
