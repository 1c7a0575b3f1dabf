package org.mnemex.engine.request;

import java.time.Instant;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Place;

/** A factor on the relevance of a document. */
public sealed interface Signal {
  /**
   * A number of a document that multiplies its relevance: {@code relevance × (1 + weight × value)}.
   * A document without the field has value 0.
   */
  sealed interface OfField extends Signal {
    String field();

    double weight();
  }

  /** {@code ln(1 + x)} of the greatest value x; below 0 counts as 0. */
  record Logarithm(String field, double weight) implements OfField {}

  /** {@code x / (x + half)}: rises quickly at first, reaches one half at {@code half}. */
  record Saturating(String field, double weight, double half) implements OfField {}

  /** A date or instant; the future counts as now. */
  record Age(String field, double weight, double halfLifeDays, Instant now, Curve curve)
      implements OfField {
    /** By {@link Curve#EXPONENTIAL}. */
    public Age(String field, double weight, double halfLifeDays, Instant now) {
      this(field, weight, halfLifeDays, now, Curve.EXPONENTIAL);
    }
  }

  /** The distance of a place. */
  record Distance(String field, double weight, double halfMetres, Place from, Curve curve)
      implements OfField {
    /** By {@link Curve#EXPONENTIAL}. */
    public Distance(String field, double weight, double halfMetres, Place from) {
      this(field, weight, halfMetres, from, Curve.EXPONENTIAL);
    }
  }

  /**
   * Multiplies the relevance of documents that meet a condition.
   *
   * @param factor above 1 lifts them, below 1 lowers them; above 0
   */
  record Lift(Query condition, double factor) implements Signal {}

  /** How the value of what is old or far falls off, from 1; one half is always at the half. */
  enum Curve {
    /** {@code 2^(-x / half)}: by half again and again. */
    EXPONENTIAL {
      @Override
      public double of(double halves) {
        return Math.pow(2, -halves);
      }
    },
    /** {@code 1 - x / (2 half)}, and 0 from twice the half on. */
    LINEAR {
      @Override
      public double of(double halves) {
        return Math.max(0, 1 - halves / 2);
      }
    },
    /** {@code 2^(-(x / half)²)}: slowly near, then quickly. */
    GAUSSIAN {
      @Override
      public double of(double halves) {
        return Math.pow(2, -halves * halves);
      }
    };

    /**
     * The value at a distance.
     *
     * @param halves the distance in halves, from 0
     */
    public abstract double of(double halves);
  }
}
