package org.mnemex.engine.facet;

import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/** Counts one facet over the segments of an edition, one after another. */
public abstract class FacetCounter {
  /** Beyond this many values, only the order by count is available. */
  static final int MAX_VALUES = 1_000_000;

  /** Its budget. */
  Budget budget = Budget.none();

  /**
   * A new counter.
   *
   * @throws org.mnemex.engine.error.QueryRefusedException if the field cannot be counted so
   */
  public static FacetCounter of(FacetRequest request, Schema schema, Budget budget) {
    Field field = schema.field(request.field());
    request.check(field, schema);
    FacetCounter counter = request.counter(field);
    counter.within(budget);
    return counter;
  }

  /** Sets its budget. */
  void within(Budget all) {
    budget = all;
  }

  /** Counts the documents of a segment. */
  public abstract void count(SegmentReader segment, DocBits docs);

  /**
   * Adds what another counter of the same request counted in other segments.
   *
   * @param other not to be used any more
   * @throws org.mnemex.engine.error.QueryRefusedException if there are too many values together
   */
  public void add(FacetCounter other) {
    add(other.part());
  }

  /** What was counted so far. */
  public abstract FacetPart part();

  /**
   * Adds what was counted of other documents.
   *
   * @param part of the same request
   * @throws org.mnemex.engine.error.QueryRefusedException if there are too many values together
   */
  public abstract void add(FacetPart part);

  /** The counts of everything counted. */
  public abstract FacetResult result();
}
