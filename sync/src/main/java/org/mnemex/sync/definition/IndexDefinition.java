package org.mnemex.sync.definition;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Schema;

/**
 * A named collection of documents: where records come from and what becomes of them.
 *
 * @param name lower-case name
 * @param source name of the source
 * @param mostRemoved the share of the documents, 0 to 1, that may vanish without a person's word
 * @param keepUnreadable whether the former document of a record in quarantine stays, marked as
 *     stale
 * @param audits those that are begun by themselves, or null
 * @param grace how long an edition is kept and fed after another has taken its place
 * @param text the definition as it was written, to tell whether it changed
 */
public record IndexDefinition(
    String name,
    String source,
    RecordShape shape,
    List<FieldDefinition> fields,
    double mostRemoved,
    boolean keepUnreadable,
    @Nullable AuditPlan audits,
    Duration grace,
    String text) {
  /** Where a definition does not say it. */
  public static final double USUAL_MOST_REMOVED = 0.3;

  /** Where a definition does not say it. */
  public static final Duration USUAL_GRACE = Duration.ofHours(1);

  public IndexDefinition {
    fields = List.copyOf(fields);
  }

  /** A definition without settings. */
  public IndexDefinition(
      String name, String source, RecordShape shape, List<FieldDefinition> fields, String text) {
    this(name, source, shape, fields, USUAL_MOST_REMOVED, false, null, USUAL_GRACE, text);
  }

  /** The fields as the engine wants them. */
  public Schema schema() {
    return new Schema(fields.stream().map(FieldDefinition::field).toList());
  }

  /** SQL expressions by the name of their field. */
  public Map<String, String> expressions() {
    Map<String, String> expressions = new LinkedHashMap<>();
    for (FieldDefinition field : fields) {
      if (field.sql() != null) {
        expressions.put(field.field().name(), field.sql());
      }
    }
    return expressions;
  }
}
