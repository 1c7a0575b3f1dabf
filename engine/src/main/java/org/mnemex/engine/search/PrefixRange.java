package org.mnemex.engine.search;

import java.util.Arrays;
import java.util.stream.IntStream;
import org.mnemex.engine.read.Dictionary;

/** The places of a dictionary whose strings begin alike. */
final class PrefixRange {
  private PrefixRange() {}

  static Iterable<Integer> of(Dictionary terms, byte[] prefix) {
    int first = terms.ceiling(prefix);
    int end = first;
    while (end < terms.size() && startsWith(terms.get(end), prefix)) {
      end++;
    }
    return IntStream.range(first, end)::iterator;
  }

  private static boolean startsWith(byte[] text, byte[] prefix) {
    return text.length >= prefix.length
        && Arrays.equals(text, 0, prefix.length, prefix, 0, prefix.length);
  }
}
