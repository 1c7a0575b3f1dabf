package org.mnemex.service.job;

import java.util.Locale;

/** What a job does. */
public enum JobKind {
  /** Fills an edition, from the database or from stored records. */
  FILL(0),
  /** Compares an index with its database. */
  AUDIT(2),
  /** Compares the results of two editions, or under two definitions. */
  COMPARE(1),
  /** Scores an edition by a scorecard. */
  SCORE(1),
  /** Merges the segments of an edition into one. */
  COMPACT(1),
  /** Takes records that a caller sends. */
  IMPORT(0),
  /** Sends the stored records of an index. */
  EXPORT(0),
  /** Freezes the state of a moment, to be fetched. */
  BACKUP(1),
  /** Brings indexes up to date after a restore. */
  RESTORE(0);

  private final int atOnce;

  JobKind(int atOnce) {
    this.atOnce = atOnce;
  }

  /** How many run at once; more wait. 0 if something else does it, and is only watched. */
  int atOnce() {
    return atOnce;
  }

  /** Its name, such as {@code audit}. */
  String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
