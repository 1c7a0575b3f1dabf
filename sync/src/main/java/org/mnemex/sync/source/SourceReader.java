package org.mnemex.sync.source;

/**
 * Somebody for whom a database keeps changes.
 *
 * @param name as the database knows it
 * @param active whether it is connected now, as far as the database knows
 * @param retained how much is kept for it
 */
public record SourceReader(String name, boolean active, long retained, Unit unit) {
  /** What is counted. */
  public enum Unit {
    /** Of a log. */
    BYTES,
    /** Lines of a journal. */
    CHANGES
  }
}
