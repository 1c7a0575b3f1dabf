package org.mnemex.e2e;

/**
 * The place of classes that take minutes: before all others, so that none runs alone at the end.
 */
final class TakesMinutes {
  static final int FIRST = 1;

  private TakesMinutes() {}
}
