package org.mnemex.sync;

import java.util.List;
import java.util.Map;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.RecordShape.Join;

/** Joins and fields as tests need them. */
public final class Shapes {
  private Shapes() {}

  /** The one row of {@code table} whose columns have the values of the columns beside them. */
  public static Join lookup(String name, String table, Map<String, ColumnRef> match) {
    return new Join(name, table, match, null, false, null, List.of(), 0);
  }

  /**
   * The rows of {@code table} that match.
   *
   * @param order columns, those in descending order with a minus sign before them
   * @param limit how many rows at most; 0 for all
   */
  public static Join children(
      String name, String table, Map<String, ColumnRef> match, List<String> order, int limit) {
    return new Join(name, table, match, null, true, null, order, limit);
  }

  /** A field of exact values that can be shown and filtered, filled from a column. */
  public static FieldDefinition field(String name, String from) {
    return new FieldDefinition(
        Field.of(name, FieldType.EXACT, null, Use.SHOW, Use.FILTER),
        ColumnRef.of(from),
        null,
        List.of(),
        name);
  }
}
