package org.mnemex.engine.facet;

import java.time.ZoneId;
import java.util.List;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Counts dates or instants by calendar unit, oldest first.
 *
 * @param zone where a day of an instant begins; ignored for dates
 * @param chosen buckets of which a result must be in one, see {@link DateUnit#interval}
 * @param empty whether to include empty buckets between others
 */
public record DateFacet(
    String name, String field, DateUnit unit, ZoneId zone, List<Interval> chosen, boolean empty)
    implements FacetRequest {
  public DateFacet {
    chosen = List.copyOf(chosen);
  }

  /** Without empty buckets. */
  public DateFacet(String name, String field, DateUnit unit, ZoneId zone, List<Interval> chosen) {
    this(name, field, unit, zone, chosen, false);
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needUse(this, value);
    FacetRequest.needFit(this, value, value.type().isMoment(), "dates");
  }

  @Override
  public FacetCounter counter(Field value) {
    return BucketCounts.of(this, value);
  }

  @Override
  public Query choice() {
    return Interval.choice(field, chosen);
  }
}
