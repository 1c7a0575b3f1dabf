package org.mnemex.sync.definition;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Schema;

/**
 * A named collection of documents: where its records come from and how they are indexed.
 *
 * @param name lower-case name
 * @param keptAs the name under which its files and records are stored: its first name
 * @param source name of the source
 * @param renamed renamed fields: former name by current name
 * @param mostRemoved the share of documents, 0 to 1, that may be removed without approval
 * @param mostChanged the share of the first results of recorded queries, 0 to 1, that a new edition
 *     may change without approval
 * @param keepUnreadable whether the previous document of a record in quarantine stays, marked as
 *     stale
 * @param audits scheduled audits, or null
 * @param compact when it is compacted by itself, or null
 * @param grace how long a replaced edition is kept and fed
 * @param freshest how late changes may be seen at most, as far as that is up to how many are
 *     applied together
 * @param text the definition as it was written, to tell whether it changed
 */
public record IndexDefinition(
    String name,
    String keptAs,
    String source,
    RecordShape shape,
    List<FieldDefinition> fields,
    Map<String, String> renamed,
    double mostRemoved,
    double mostChanged,
    boolean keepUnreadable,
    @Nullable AuditPlan audits,
    @Nullable CompactPlan compact,
    Duration grace,
    Duration freshest,
    String text) {
  /** The default. */
  public static final double USUAL_MOST_REMOVED = 0.3;

  /** The default: most changes are meant to change results. */
  public static final double USUAL_MOST_CHANGED = 1;

  /** The default. */
  public static final Duration USUAL_GRACE = Duration.ofHours(1);

  /** The default. */
  public static final Duration USUAL_FRESHEST = Duration.ofSeconds(1);

  public IndexDefinition {
    fields = List.copyOf(fields);
    renamed = Map.copyOf(renamed);
  }

  /** A definition without settings. */
  public IndexDefinition(
      String name, String source, RecordShape shape, List<FieldDefinition> fields, String text) {
    this(
        name,
        name,
        source,
        shape,
        fields,
        Map.of(),
        USUAL_MOST_REMOVED,
        USUAL_MOST_CHANGED,
        false,
        null,
        null,
        USUAL_GRACE,
        USUAL_FRESHEST,
        text);
  }

  /** The same with other names. */
  public IndexDefinition called(String otherName, String otherKeptAs) {
    return new IndexDefinition(
        otherName,
        otherKeptAs,
        source,
        shape,
        fields,
        renamed,
        mostRemoved,
        mostChanged,
        keepUnreadable,
        audits,
        compact,
        grace,
        freshest,
        text);
  }

  /** The fields as a schema of the engine. */
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
