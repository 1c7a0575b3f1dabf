package org.mnemex.engine.facet;

import java.util.ArrayList;
import java.util.List;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/** Adds a count of documents without a value to another counter. */
final class WithNone extends FacetCounter {
  private final OrNoneFacet request;
  private final Field field;
  private final FacetCounter values;
  private long none;

  WithNone(OrNoneFacet request, Field field, FacetCounter values) {
    if (field.isChild()) {
      throw new QueryRefusedException(
          "facet '%s' counts rows of a group, which has no value for having none"
              .formatted(request.name()));
    }
    this.request = request;
    this.field = field;
    this.values = values;
  }

  @Override
  void within(Budget all) {
    super.within(all);
    values.within(all);
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    values.count(segment, docs);
    DocBits with = docs.copy();
    with.and(
        field.type() == FieldType.PLACE
            ? segment.places(field).present().present()
            // Where a document may have several values, finding this out takes a walk through all.
            : segment.derived(
                "documents with " + field.name(), () -> segment.column(field).present()));
    none += docs.count() - with.count();
  }

  @Override
  public void add(FacetCounter other) {
    values.add(((WithNone) other).values);
    none += ((WithNone) other).none;
  }

  @Override
  public FacetPart part() {
    return new FacetPart.OrNone(values.part(), none);
  }

  @Override
  public void add(FacetPart part) {
    FacetPart.OrNone theirs = (FacetPart.OrNone) part;
    values.add(theirs.values());
    none += theirs.none();
  }

  @Override
  public FacetResult result() {
    FacetResult counted = values.result();
    List<FacetResult.Value> all = new ArrayList<>(counted.values());
    if (none > 0 || request.chosen()) {
      all.add(new FacetResult.Value(request.none(), none, request.chosen()));
    }
    return new FacetResult(request.name(), all, counted.more(), counted.statistics());
  }
}
