package org.mnemex.client;

/** Hears of the records of a file while they are pushed. */
@FunctionalInterface
public interface PushProgress {
  /**
   * A record was refused.
   *
   * @param line its line in the file, from 1; 0 if that is not known
   * @param why the reason
   */
  void refused(long line, String why);

  /**
   * A record was taken.
   *
   * @param records how many have been taken so far
   */
  default void taken(long records) {}
}
