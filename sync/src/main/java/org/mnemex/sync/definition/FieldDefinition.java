package org.mnemex.sync.definition;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;

/**
 * A field and where its values come from: a column or an SQL expression, exactly one of them.
 *
 * @param field the field as the engine knows it
 * @param from the column
 * @param sql an expression over the root row and its one-to-one joins
 * @param clean steps applied to each value
 * @param title how people call it
 */
public record FieldDefinition(
    Field field,
    RecordShape.@Nullable ColumnRef from,
    @Nullable String sql,
    List<CleanStep> clean,
    String title) {
  public FieldDefinition {
    clean = List.copyOf(clean);
  }
}
