package org.mnemex.service.condition;

import java.util.Locale;

/** What somebody should know of. */
public enum Condition {
  /** An index could not be started. */
  NOT_RUNNING,
  /** A feed has stopped, or its edition is damaged. */
  STOPPED,
  /** Removals wait for approval. */
  HELD,
  /** A source cannot be reached. */
  AWAY,
  /** An index is behind its source. */
  BEHIND,
  /** What is built is not published, or not followed. */
  STORE,
  /** A search node does not report any more. */
  NODE_AWAY,
  /** A database keeps much for one of our readers. */
  RETAINED,
  /** Many records are in quarantine. */
  QUARANTINE,
  /** The last audit found differences. */
  DIFFERS,
  /** An edition waits for approval. */
  WAITING,
  /** The disk of the data folder is nearly full. */
  DISK,
  /** Searches fail. */
  ERRORS,
  /** Searches are slow. */
  SLOW;

  /** Its name in messages and answers, such as {@code not-running}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }

  /** The condition of a name. */
  static Condition of(String word) {
    return valueOf(word.toUpperCase(Locale.ROOT).replace('-', '_'));
  }
}
