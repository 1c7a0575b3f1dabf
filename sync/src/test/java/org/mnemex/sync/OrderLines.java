package org.mnemex.sync;

import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;

/** Lines of orders: names that need quoting, a key of two columns, a table joined to itself. */
public final class OrderLines {
  private OrderLines() {}

  /** Every line that satisfies a condition, in the database's SQL. */
  public static RecordShape shape(String only) {
    return new RecordShape(
        "Order Line",
        List.of("order", "no"),
        only,
        List.of(
            Shapes.lookup(
                "parent",
                "Order Line",
                Map.of("order", ColumnRef.of("order"), "no", ColumnRef.of("parent no"))),
            Shapes.lookup("select", "Seed \"lot\"", Map.of("code", ColumnRef.of("parent.seed"))),
            Shapes.children(
                "notes",
                "note",
                Map.of("order", ColumnRef.of("order"), "line", ColumnRef.of("no")),
                List.of("-rank"),
                2)),
        Set.of("Seed \"lot\".secret"));
  }
}
