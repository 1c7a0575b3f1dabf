package org.mnemex.sync.record;

import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.TableIdentity;

/**
 * What was seen of the tables of all indexes over a database, so that each index need not look
 * itself.
 *
 * @param watched the columns whose capture was checked, by table
 * @param captured whether all of them were captured
 * @param nanos when, by {@link System#nanoTime}
 */
record SeenTables(
    Catalogue catalogue,
    Map<String, TableIdentity> identities,
    Map<String, Set<String>> watched,
    boolean captured,
    long nanos) {
  boolean isYoungerThan(Duration age) {
    return System.nanoTime() - nanos < age.toNanos();
  }

  /** Whether changes of all tables of a shape were captured. */
  boolean areCaptured(RecordShape shape) {
    return captured
        && shape.watchedColumns().entrySet().stream()
            .allMatch(
                table ->
                    watched.getOrDefault(table.getKey(), Set.of()).containsAll(table.getValue()));
  }

  ReadColumns columns(RecordShape shape) {
    Map<String, TableIdentity> own = new HashMap<>(identities);
    own.keySet().retainAll(shape.watchedColumns().keySet());
    return ReadColumns.of(shape, catalogue, own);
  }
}
