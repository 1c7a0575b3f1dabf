package org.mnemex.cli;

import java.util.Locale;

/** Numbers with the word for what is counted. */
final class Counted {
  private Counted() {}

  /**
   * Such as "1 record" and "2,000 records".
   *
   * @param one the word for one of them; more of them are called the same with an s
   */
  static String of(long number, String one) {
    return of(number, one, one + 's');
  }

  /** Such as "1 query" and "2 queries". */
  static String of(long number, String one, String several) {
    return String.format(Locale.ROOT, "%,d %s", number, number == 1 ? one : several);
  }
}
