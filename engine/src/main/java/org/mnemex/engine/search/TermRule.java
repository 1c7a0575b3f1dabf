package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.mnemex.engine.query.PatternText;
import org.mnemex.engine.read.Dictionary;

/** Describes terms of a dictionary. */
sealed interface TermRule {
  /** The terms it describes, in order. */
  List<Found> in(Dictionary terms);

  /** The rule in words, for messages and explanations. */
  String what();

  /**
   * A term that was found.
   *
   * @param place in the dictionary
   * @param documents in how many it stands
   * @param strength 1, or less for what is not quite what was asked for
   */
  record Found(int place, int documents, float strength) {}

  private static Found found(Dictionary.Walk walk, float strength) {
    return new Found(walk.place(), (int) walk.number(0), strength);
  }

  /** Terms that begin with some bytes. */
  record Prefix(byte[] prefix) implements TermRule {
    @Override
    public List<Found> in(Dictionary terms) {
      List<Found> found = new ArrayList<>();
      Dictionary.Walk walk = terms.walk();
      walk.seek(prefix);
      while (walk.place() < terms.size() && walk.startsWith(prefix)) {
        found.add(found(walk, 1));
        walk.next();
      }
      return found;
    }

    @Override
    public String what() {
      return "'" + new String(prefix, StandardCharsets.UTF_8) + "*'";
    }
  }

  /** Terms that an automaton accepts. Beginnings that cannot lead anywhere are jumped over. */
  record Matching(String expression, PatternText.Automaton automaton) implements TermRule {
    @Override
    public List<Found> in(Dictionary terms) {
      List<Found> found = new ArrayList<>();
      Dictionary.Walk walk = terms.walk();
      boolean has = walk.next();
      List<boolean[]> states = new ArrayList<>(List.of(automaton.begin()));
      int[] before = new int[0];
      while (has) {
        int[] points = points(walk);
        int same = shared(before, points);
        while (states.size() > same + 1) {
          states.removeLast();
        }
        int at = states.size() - 1;
        boolean dead = false;
        while (at < points.length && !dead) {
          boolean[] next = automaton.step(states.getLast(), points[at]);
          dead = next == null;
          if (next != null) {
            states.add(next);
            at++;
          }
        }
        before = Arrays.copyOf(points, at);
        if (dead) {
          has = jump(walk, points, at + 1);
        } else {
          if (automaton.accepts(states.getLast())) {
            found.add(found(walk, 1));
          }
          has = walk.next();
        }
      }
      return found;
    }

    @Override
    public String what() {
      return "'" + expression + "'";
    }
  }

  /**
   * Terms within an edit distance, swaps of neighbours counting one (optimal string alignment,
   * Damerau 1964). The table is computed row by row along the sorted dictionary: terms that begin
   * alike share rows, and a beginning that is too far away already is jumped over.
   *
   * @param same how many characters at the beginning must be right
   * @param prefix whether terms may go on behind the word
   */
  record Similar(String word, int edits, int same, boolean prefix) implements TermRule {
    @Override
    public List<Found> in(Dictionary terms) {
      int[] wanted = word.codePoints().toArray();
      byte[] fixed =
          word.substring(0, word.offsetByCodePoints(0, Math.min(same, wanted.length)))
              .getBytes(StandardCharsets.UTF_8);
      List<Found> found = new ArrayList<>();
      Dictionary.Walk walk = terms.walk();
      walk.seek(fixed);
      boolean has = walk.place() < terms.size();
      List<int[]> rows = new ArrayList<>();
      int[] first = new int[wanted.length + 1];
      Arrays.setAll(first, i -> i);
      rows.add(first);
      int[] before = new int[0];
      while (has && walk.startsWith(fixed)) {
        int[] points = points(walk);
        int shared = shared(before, points);
        while (rows.size() > shared + 1) {
          rows.removeLast();
        }
        int at = rows.size() - 1;
        boolean dead = false;
        int best = prefix ? bestEnd(rows, wanted.length) : Integer.MAX_VALUE;
        while (at < points.length && !dead) {
          int[] row = row(rows, points, at, wanted);
          rows.add(row);
          at++;
          best = prefix ? Math.min(best, row[wanted.length]) : best;
          dead = least(row) > edits;
        }
        before = Arrays.copyOf(points, at);
        int distance = prefix ? best : rows.getLast()[wanted.length];
        if (distance <= edits && (prefix || !dead)) {
          found.add(found(walk, strength(distance)));
          has = walk.next();
        } else if (dead) {
          has = jump(walk, points, at);
        } else {
          has = walk.next();
        }
      }
      return found;
    }

    private static int bestEnd(List<int[]> rows, int end) {
      int best = Integer.MAX_VALUE;
      for (int[] row : rows) {
        best = Math.min(best, row[end]);
      }
      return best;
    }

    private static int[] row(List<int[]> rows, int[] points, int at, int[] wanted) {
      int[] above = rows.get(at);
      int[] row = new int[wanted.length + 1];
      row[0] = at + 1;
      for (int i = 1; i <= wanted.length; i++) {
        int replace = above[i - 1] + (wanted[i - 1] == points[at] ? 0 : 1);
        row[i] = Math.min(replace, 1 + Math.min(above[i], row[i - 1]));
        if (at > 0 && i > 1 && wanted[i - 1] == points[at - 1] && wanted[i - 2] == points[at]) {
          row[i] = Math.min(row[i], rows.get(at - 1)[i - 2] + 1);
        }
      }
      return row;
    }

    private static int least(int[] row) {
      int least = row[0];
      for (int value : row) {
        least = Math.min(least, value);
      }
      return least;
    }

    /** Powers of two, so that sums of strengths are exact. */
    static float strength(int distance) {
      return 1f / (1 << 2 * distance);
    }

    @Override
    public String what() {
      return "'" + word + (prefix ? "*" : "") + "' with up to " + edits + " typos";
    }
  }

  private static int[] points(Dictionary.Walk walk) {
    return new String(walk.buffer(), 0, walk.length(), StandardCharsets.UTF_8)
        .codePoints()
        .toArray();
  }

  private static int shared(int[] a, int[] b) {
    int mismatch = Arrays.mismatch(a, b);
    return mismatch < 0 ? a.length : mismatch;
  }

  /** Goes behind all terms that begin with the first {@code count} of {@code points}. */
  private static boolean jump(Dictionary.Walk walk, int[] points, int count) {
    byte[] beginning = new String(points, 0, count).getBytes(StandardCharsets.UTF_8);
    byte[] behind = Arrays.copyOf(beginning, beginning.length + 1);
    // No UTF-8 has this byte, so it comes after every continuation.
    behind[beginning.length] = (byte) 0xFF;
    // Most such groups are small: a few steps cost less than a search.
    for (int i = 0; i < 8; i++) {
      if (!walk.next()) {
        return false;
      }
      if (!walk.startsWith(beginning)) {
        return true;
      }
    }
    walk.seek(behind);
    return walk.hasCurrent();
  }
}
