package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.PatternText;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.text.EditDistance;
import org.mnemex.engine.text.EditTable;

/** Describes terms of a dictionary. */
sealed interface TermRule {
  /** So many steps forward cost less than a search. */
  int NEAR = 8;

  /** The terms it describes, in order; not all of them if the time is over. */
  List<Found> in(Dictionary terms, Budget budget);

  /** Whether it describes a term. */
  boolean accepts(String term);

  /** The rule in words, for messages and explanations. */
  String what();

  /** A text that only equal rules share. */
  String name();

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
    public List<Found> in(Dictionary terms, Budget budget) {
      List<Found> found = new ArrayList<>();
      Dictionary.Walk walk = terms.walk();
      walk.seek(prefix);
      while (walk.place() < terms.size() && walk.startsWith(prefix) && budget.step()) {
        found.add(found(walk, 1));
        walk.next();
      }
      return found;
    }

    @Override
    public boolean accepts(String term) {
      return term.startsWith(new String(prefix, StandardCharsets.UTF_8));
    }

    @Override
    public String what() {
      return "'" + new String(prefix, StandardCharsets.UTF_8) + "*'";
    }

    @Override
    public String name() {
      return "prefix " + new String(prefix, StandardCharsets.UTF_8);
    }
  }

  /** Terms that an automaton accepts. Beginnings that cannot lead anywhere are jumped over. */
  record Matching(String expression, Syntax syntax, PatternText.Automaton automaton)
      implements TermRule {
    /** How the expression is written. */
    enum Syntax {
      WILDCARD,
      PATTERN
    }

    @Override
    public List<Found> in(Dictionary terms, Budget budget) {
      List<Found> found = new ArrayList<>();
      Dictionary.Walk walk = terms.walk();
      boolean has = walk.next();
      List<boolean[]> states = new ArrayList<>(List.of(automaton.begin()));
      Points points = new Points();
      while (has && budget.step()) {
        int shared = points.read(walk);
        while (states.size() > shared + 1) {
          states.removeLast();
        }
        boolean dead = false;
        while (states.size() <= points.count && !dead) {
          boolean[] next = automaton.step(states.getLast(), points.points[states.size() - 1]);
          dead = next == null;
          if (next != null) {
            states.add(next);
          }
        }
        if (dead) {
          has = jump(walk, points.bytes(states.size()));
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
    public boolean accepts(String term) {
      return automaton.matches(term);
    }

    @Override
    public String what() {
      return "'" + expression + "'";
    }

    @Override
    public String name() {
      return syntax + " " + expression;
    }
  }

  /**
   * Terms within an edit distance, swaps of neighbours counting one (optimal string alignment,
   * Damerau 1964). The table is computed row by row along the sorted dictionary: terms that begin
   * alike share rows, and a beginning that is too far away already is jumped over.
   *
   * @param same how many characters at the beginning must be right
   * @param prefix whether terms may go on after the word
   */
  record Similar(String word, int edits, int same, boolean prefix) implements TermRule {
    @Override
    public List<Found> in(Dictionary terms, Budget budget) {
      int[] wanted = word.codePoints().toArray();
      byte[] fixed =
          word.substring(0, word.offsetByCodePoints(0, Math.min(same, wanted.length)))
              .getBytes(StandardCharsets.UTF_8);
      List<Found> found = new ArrayList<>();
      Dictionary.Walk walk = terms.walk();
      walk.seek(fixed);
      EditTable table = new EditTable(wanted);
      Points points = new Points();
      boolean has = walk.hasCurrent();
      while (has && walk.startsWith(fixed) && budget.step()) {
        int shared = points.read(walk);
        table.backTo(shared);
        boolean dead = table.depth() > 0 && table.least() > edits;
        while (table.depth() < points.count && !dead) {
          table.add(points.points);
          dead = table.least() > edits;
        }
        int distance = prefix ? table.best() : dead ? edits + 1 : table.last();
        if (distance <= edits) {
          found.add(found(walk, strength(distance)));
          has = walk.next();
        } else if (dead) {
          has = jump(walk, points.bytes(table.depth()));
        } else {
          has = walk.next();
        }
      }
      return found;
    }

    /** Powers of two, so that sums of strengths are exact. */
    static float strength(int distance) {
      return 1f / (1 << 2 * distance);
    }

    @Override
    public boolean accepts(String term) {
      return EditDistance.within(word, term, edits, same, prefix);
    }

    @Override
    public String what() {
      return "'" + word + (prefix ? "*" : "") + "' with up to " + edits + " typos";
    }

    @Override
    public String name() {
      return "similar %d %d %s %s".formatted(edits, same, prefix, word);
    }
  }

  /** The best of the terms that another rule describes: strongest first, then most frequent. */
  record Best(TermRule rule, int most) implements TermRule {
    /** The best of a dictionary first. */
    static final Comparator<Found> FIRST =
        Comparator.<Found>comparingDouble(found -> -found.strength())
            .thenComparingInt(found -> -found.documents())
            .thenComparingInt(Found::place);

    @Override
    public List<Found> in(Dictionary terms, Budget budget) {
      return candidates(terms, budget).stream()
          .sorted(FIRST)
          .limit(most)
          .sorted(Comparator.comparingInt(Found::place))
          .toList();
    }

    private List<Found> candidates(Dictionary terms, Budget budget) {
      TermRule exact = exact();
      List<Found> found = exact == null ? List.of() : exact.in(terms, budget);
      return found.size() >= most ? found : rule.in(terms, budget);
    }

    /**
     * What describes the strongest of the terms only: where enough begin with the word as it is,
     * those with typing errors come after. Null if nothing does so for less.
     */
    @Nullable TermRule exact() {
      return rule instanceof Similar similar && similar.prefix()
          ? new Prefix(similar.word().getBytes(StandardCharsets.UTF_8))
          : null;
    }

    @Override
    public boolean accepts(String term) {
      return rule.accepts(term);
    }

    @Override
    public String what() {
      return rule.what();
    }

    @Override
    public String name() {
      return "best " + most + " " + rule.name();
    }
  }

  /** The characters of the current term. */
  final class Points {
    int[] points = new int[32];
    int count;
    private byte[] term = {};

    /** Reads a term and returns how many characters it shares with the one before. */
    int read(Dictionary.Walk walk) {
      int before = count;
      int shared = 0;
      boolean same = true;
      count = 0;
      byte[] bytes = walk.buffer();
      for (int at = 0; at < walk.length(); ) {
        int lead = bytes[at] & 0xFF;
        int units = lead < 0x80 ? 1 : lead < 0xE0 ? 2 : lead < 0xF0 ? 3 : 4;
        int point = units == 1 ? lead : lead & 0xFF >> units + 1;
        for (int i = 1; i < units; i++) {
          point = point << 6 | bytes[at + i] & 0x3F;
        }
        if (count == points.length) {
          points = Arrays.copyOf(points, 2 * count);
        }
        same &= count < before && points[count] == point;
        shared += same ? 1 : 0;
        points[count++] = point;
        at += units;
      }
      term = bytes;
      return shared;
    }

    /** The bytes of the first characters. */
    byte[] bytes(int characters) {
      int end = 0;
      for (int i = 0; i < characters; i++) {
        int point = points[i];
        end += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
      }
      return Arrays.copyOf(term, end);
    }
  }

  /** Goes after all terms that begin with some bytes. */
  private static boolean jump(Dictionary.Walk walk, byte[] beginning) {
    // Most such groups are small: a few steps cost less than a search.
    for (int i = 0; i < NEAR; i++) {
      if (!walk.next()) {
        return false;
      }
      if (!walk.startsWith(beginning)) {
        return true;
      }
    }
    byte[] end = Arrays.copyOf(beginning, beginning.length + 1);
    // No UTF-8 has this byte, so it comes after every continuation.
    end[beginning.length] = (byte) 0xFF;
    walk.seek(end);
    return walk.hasCurrent();
  }
}
