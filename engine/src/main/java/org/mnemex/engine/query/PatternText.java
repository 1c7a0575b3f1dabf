package org.mnemex.engine.query;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.mnemex.engine.error.QueryRefusedException;

/**
 * A regular expression with linear matching: literals, {@code .}, classes {@code [a-z]} and {@code
 * [^0-9]}, {@code |}, groups {@code ( )}, and {@code *}, {@code +}, {@code ?}; a backslash takes
 * the next character as it is. It becomes a nondeterministic automaton after Thompson, "Regular
 * Expression Search Algorithm" (CACM 1968), whose states are all followed at once, so a match takes
 * time in proportion to text × expression.
 */
public final class PatternText {
  /** Longest expression in UTF-16 units. */
  public static final int MAX_UNITS = 500;

  private static final int MAX_DEPTH = 50;

  private final String expression;
  private final List<State> states = new ArrayList<>();
  private int at;
  private int depth;

  private PatternText(String expression) {
    this.expression = expression;
  }

  /**
   * Reads an expression.
   *
   * @throws QueryRefusedException with the place, if it cannot be read or is too long
   */
  public static Automaton compile(String expression) {
    if (expression.length() > MAX_UNITS) {
      throw new QueryRefusedException(
          "a pattern has at most %d characters; this one has %d"
              .formatted(MAX_UNITS, expression.length()));
    }
    PatternText reader = new PatternText(expression);
    Part whole = reader.alternatives();
    if (reader.at < expression.length()) {
      throw reader.refused("unexpected '" + expression.charAt(reader.at) + "'");
    }
    int accept = reader.state(new State(null, -1, -1));
    reader.patch(whole, accept);
    return new Automaton(reader.states, whole.start, accept);
  }

  /** An expression for a wildcard pattern of {@code *} and {@code ?}. */
  public static Automaton wildcard(String pattern) {
    StringBuilder out = new StringBuilder();
    pattern
        .codePoints()
        .forEach(
            c -> {
              switch (c) {
                case '*' -> out.append(".*");
                case '?' -> out.append('.');
                default -> out.append(Character.isLetterOrDigit(c) ? "" : "\\").appendCodePoint(c);
              }
            });
    return compile(out.toString());
  }

  private record State(int[] ranges, int next, int other) {}

  /** A piece of the automaton and the loose ends of it: state × 2, plus 1 for the second way. */
  private record Part(int start, List<Integer> ends) {}

  private QueryRefusedException refused(String what) {
    return new QueryRefusedException(
        "pattern '%s', character %d: %s".formatted(expression, at + 1, what));
  }

  private int state(State state) {
    states.add(state);
    return states.size() - 1;
  }

  private void patch(Part part, int target) {
    for (int end : part.ends) {
      State old = states.get(end / 2);
      states.set(
          end / 2,
          end % 2 == 0
              ? new State(old.ranges, target, old.other)
              : new State(old.ranges, old.next, target));
    }
  }

  private Part alternatives() {
    if (++depth > MAX_DEPTH) {
      throw refused("nested more than " + MAX_DEPTH + " deep");
    }
    Part left = sequence();
    while (at < expression.length() && expression.charAt(at) == '|') {
      at++;
      Part right = sequence();
      int fork = state(new State(null, left.start, right.start));
      List<Integer> ends = new ArrayList<>(left.ends);
      ends.addAll(right.ends);
      left = new Part(fork, ends);
    }
    depth--;
    return left;
  }

  private Part sequence() {
    int start = state(new State(null, -1, -1));
    Part all = new Part(start, List.of(2 * start));
    while (at < expression.length() && "|)".indexOf(expression.charAt(at)) < 0) {
      Part next = repeated();
      patch(all, next.start);
      all = new Part(all.start, next.ends);
    }
    return all;
  }

  private Part repeated() {
    Part part = single();
    while (at < expression.length() && "*+?".indexOf(expression.charAt(at)) >= 0) {
      char how = expression.charAt(at++);
      int fork = state(new State(null, part.start, -1));
      if (how == '?') {
        List<Integer> ends = new ArrayList<>(part.ends);
        ends.add(2 * fork + 1);
        part = new Part(fork, ends);
      } else {
        patch(part, fork);
        part = new Part(how == '*' ? fork : part.start, List.of(2 * fork + 1));
      }
    }
    return part;
  }

  private Part single() {
    int c = expression.codePointAt(at);
    at += Character.charCount(c);
    return switch (c) {
      case '(' -> {
        Part inner = alternatives();
        if (at == expression.length()) {
          throw refused("a ')' is missing");
        }
        at++;
        yield inner;
      }
      case '[' -> characters(characterClass());
      case '.' -> characters(new int[] {0, Character.MAX_CODE_POINT});
      case '*', '+', '?' -> {
        at--;
        throw refused("nothing to repeat before '" + (char) c + "'");
      }
      case ')' -> {
        at--;
        throw refused("unexpected ')'");
      }
      default -> {
        int literal = c == '\\' ? escaped() : c;
        yield characters(new int[] {literal, literal});
      }
    };
  }

  private Part characters(int[] ranges) {
    int state = state(new State(ranges, -1, -1));
    return new Part(state, List.of(2 * state));
  }

  private int escaped() {
    if (at == expression.length()) {
      throw refused("a backslash with nothing behind it");
    }
    int c = expression.codePointAt(at);
    at += Character.charCount(c);
    return c;
  }

  private int[] characterClass() {
    boolean not = at < expression.length() && expression.charAt(at) == '^';
    at += not ? 1 : 0;
    List<int[]> ranges = new ArrayList<>();
    while (at < expression.length() && expression.charAt(at) != ']') {
      int from = one();
      int to = from;
      if (at + 1 < expression.length()
          && expression.charAt(at) == '-'
          && expression.charAt(at + 1) != ']') {
        at++;
        to = one();
      }
      if (to < from) {
        throw refused("a range that runs backwards");
      }
      ranges.add(new int[] {from, to});
    }
    if (at == expression.length()) {
      throw refused("a ']' is missing");
    }
    at++;
    return not ? complement(ranges) : ranges.stream().flatMapToInt(Arrays::stream).toArray();
  }

  private int one() {
    int c = expression.codePointAt(at);
    at += Character.charCount(c);
    return c == '\\' ? escaped() : c;
  }

  private static int[] complement(List<int[]> ranges) {
    ranges.sort((a, b) -> Integer.compare(a[0], b[0]));
    List<Integer> out = new ArrayList<>();
    int from = 0;
    for (int[] range : ranges) {
      if (range[0] > from) {
        out.add(from);
        out.add(range[0] - 1);
      }
      from = Math.max(from, range[1] + 1);
    }
    out.add(from);
    out.add(Character.MAX_CODE_POINT);
    return out.stream().mapToInt(Integer::intValue).toArray();
  }

  /** A compiled expression. Immutable. */
  public static final class Automaton {
    private final State[] states;
    private final int start;
    private final int accept;

    private Automaton(List<State> states, int start, int accept) {
      this.states = states.toArray(State[]::new);
      this.start = start;
      this.accept = accept;
    }

    /** The states before any character. */
    public boolean[] begin() {
      boolean[] set = new boolean[states.length];
      add(set, start);
      return set;
    }

    /** The states after one more character; null if there are none, so that nothing can match. */
    public boolean @org.jspecify.annotations.Nullable [] step(boolean[] before, int codePoint) {
      boolean[] after = new boolean[states.length];
      boolean some = false;
      for (int i = 0; i < before.length; i++) {
        State state = states[i];
        if (before[i] && state.ranges != null && contains(state.ranges, codePoint)) {
          add(after, state.next);
          some = true;
        }
      }
      return some ? after : null;
    }

    /** Whether what was read so far is a match. */
    public boolean accepts(boolean[] set) {
      return set[accept];
    }

    /** Whether {@code text} as a whole is a match. */
    public boolean matches(String text) {
      boolean[] set = begin();
      for (int i = 0; i < text.length(); i += Character.charCount(text.codePointAt(i))) {
        boolean[] next = step(set, text.codePointAt(i));
        if (next == null) {
          return false;
        }
        set = next;
      }
      return accepts(set);
    }

    private void add(boolean[] set, int first) {
      int[] open = new int[states.length + 1];
      int count = 0;
      open[count++] = first;
      set[first] = true;
      while (count > 0) {
        State state = states[open[--count]];
        if (state.ranges == null) {
          for (int target : new int[] {state.next, state.other}) {
            if (target >= 0 && !set[target]) {
              set[target] = true;
              open[count++] = target;
            }
          }
        }
      }
    }

    private static boolean contains(int[] ranges, int c) {
      for (int i = 0; i < ranges.length; i += 2) {
        if (c >= ranges[i] && c <= ranges[i + 1]) {
          return true;
        }
      }
      return false;
    }
  }
}
