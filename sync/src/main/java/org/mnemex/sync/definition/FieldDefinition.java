package org.mnemex.sync.definition;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;

/**
 * A field and where its values come from: a column, or an SQL expression, or two columns for a
 * place, or the rows of a join for a group.
 *
 * @param field the field as the engine knows it
 * @param from the column; a place's latitude; null for a group
 * @param second a place's longitude; null for every other type
 * @param sql an expression over the root row and its one-to-one joins
 * @param clean steps applied to each value
 * @param title the name for people
 * @param children a group's fields, each from a column of the same join
 * @param file how to extract text, for a column of files; else null
 */
public record FieldDefinition(
    Field field,
    RecordShape.@Nullable ColumnRef from,
    RecordShape.@Nullable ColumnRef second,
    @Nullable String sql,
    List<CleanStep> clean,
    String title,
    List<FieldDefinition> children,
    @Nullable File file) {
  /**
   * A column of files.
   *
   * @param media the column of their media type, in the same row; null to detect it
   * @param optional whether a record is indexed without the text of a file that cannot be read
   */
  public record File(RecordShape.@Nullable ColumnRef media, boolean optional) {}

  public FieldDefinition {
    clean = List.copyOf(clean);
    children = List.copyOf(children);
  }

  /** A field of one column or expression. */
  public FieldDefinition(
      Field field,
      RecordShape.@Nullable ColumnRef from,
      @Nullable String sql,
      List<CleanStep> clean,
      String title) {
    this(field, from, null, sql, clean, title, List.of(), null);
  }
}
