package org.mnemex.sync.source;

/**
 * A reader for which a database keeps changes.
 *
 * @param name its name in the database
 * @param active whether it is connected, as far as the database knows
 * @param retained how much is kept for it
 */
public record SourceReader(String name, boolean active, long retained, Unit unit) {
  /** The unit of what is kept. */
  public enum Unit {
    /** Bytes of a log. */
    BYTES,
    /** Lines of a journal. */
    CHANGES
  }
}
