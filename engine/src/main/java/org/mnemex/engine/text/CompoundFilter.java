package org.mnemex.engine.text;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Gives the parts of compounds besides the compound, at its position: {@code Apfelbaumschnitt} is
 * also {@code apfel}, {@code baum} and {@code schnitt}. A word is taken apart only if all of it is
 * words of a list, with at most a linking element between; of several ways the one with the fewest
 * parts is taken. Queries are not taken apart: a search for a compound is for the compound itself.
 *
 * <p>The linking elements are those of German, Dutch and the Scandinavian languages.
 */
final class CompoundFilter implements TokenFilter {
  private static final List<String> LINKS =
      List.of("", "s", "e", "n", "r", "es", "en", "er", "ens");

  private final String name;
  private final WordSet words;
  private final int shortest;
  private final int longest;

  /**
   * @param name as definitions write it
   * @param words the parts, in the form that tokens have here
   */
  CompoundFilter(String name, Collection<String> words) {
    Set<String> all = new TreeSet<>(words);
    this.name = name;
    this.words = new WordSet(all);
    this.shortest = all.stream().mapToInt(String::length).min().orElse(1);
    this.longest = all.stream().mapToInt(String::length).max().orElse(1);
  }

  @Override
  public String name() {
    return name;
  }

  @Override
  public @Nullable TokenFilter forQueries() {
    return null;
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(this::split, next);
  }

  private void split(Token token, TokenSink next) {
    char[] chars = Arrays.copyOf(token.chars(), token.length());
    next.accept(token);
    if (chars.length < 2 * shortest || token.isProtected()) {
      return;
    }
    for (String part : parts(chars)) {
      token.text(part);
      next.accept(token);
    }
    token.text(chars);
  }

  /** The fewest words of the list that make up a word; empty if it is none or one of them. */
  private List<String> parts(char[] chars) {
    int length = chars.length;
    // From each place on: into how many parts the rest falls, how long the first is, and its link.
    int[] count = new int[length + 1];
    int[] first = new int[length + 1];
    int[] link = new int[length + 1];
    for (int from = length - shortest; from >= 0; from--) {
      for (int size = shortest; size <= longest && from + size <= length; size++) {
        int end = from + size;
        if (!words.contains(Arrays.copyOfRange(chars, from, end), size)) {
          continue;
        }
        if (end == length) {
          count[from] = 1;
          first[from] = size;
          link[from] = 0;
          continue;
        }
        for (String between : LINKS) {
          int rest = end + between.length();
          if (rest < length
              && count[rest] > 0
              && startsWith(chars, end, between)
              && (count[from] == 0 || count[rest] + 1 < count[from])) {
            count[from] = count[rest] + 1;
            first[from] = size;
            link[from] = between.length();
          }
        }
      }
    }
    if (count[0] < 2) {
      return List.of();
    }
    List<String> parts = new ArrayList<>();
    for (int at = 0; at < length; at += first[at] + link[at]) {
      parts.add(new String(chars, at, first[at]));
    }
    return List.copyOf(parts);
  }

  private static boolean startsWith(char[] chars, int at, String text) {
    for (int i = 0; i < text.length(); i++) {
      if (at + i >= chars.length || chars[at + i] != text.charAt(i)) {
        return false;
      }
    }
    return true;
  }
}
