package org.mnemex.engine.text;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.NavigableMap;
import java.util.TreeMap;

/**
 * The ways through the tokens of a query. Tokens at the same position are alternatives; a token
 * that spans several positions stands beside the tokens it spans, as a synonym of several words
 * does.
 */
public final class TokenPaths {
  /** More ways are not followed: so many come of ten synonyms of several words in one phrase. */
  private static final int MAX_PATHS = 1_024;

  /** Tokens at later positions are ignored. */
  private static final int MAX_POSITIONS = 256;

  private TokenPaths() {}

  /**
   * One way through.
   *
   * @param slots one after the other; the terms of a slot are alternatives
   * @param offsets where each stands, counted in words, with holes where stopwords were
   */
  public record Path(List<List<String>> slots, int[] offsets) {
    /** How many positions it covers. */
    public int length() {
      return offsets[offsets.length - 1] + 1;
    }
  }

  /** All ways; none if there are no tokens. */
  public static List<Path> of(List<AnalysedToken> tokens) {
    if (tokens.isEmpty()) {
      return List.of();
    }
    NavigableMap<Integer, List<Branch>> branches = branches(tokens);
    List<Path> paths = new ArrayList<>();
    follow(branches, branches.firstKey(), 0, new ArrayList<>(), new ArrayList<>(), paths);
    return paths;
  }

  /** What may stand at a position: terms of the same span, or several together. */
  private record Branch(List<List<String>> slots, int span, boolean together) {}

  private static NavigableMap<Integer, List<Branch>> branches(List<AnalysedToken> tokens) {
    int first = tokens.stream().mapToInt(AnalysedToken::position).min().orElse(0);
    TreeMap<Integer, List<Branch>> branches = new TreeMap<>();
    for (int i = 0; i < tokens.size(); i++) {
      AnalysedToken token = tokens.get(i);
      List<List<String>> slots = new ArrayList<>();
      slots.add(new ArrayList<>(List.of(token.text())));
      while (i + 1 < tokens.size() && tokens.get(i + 1).joined()) {
        slots.add(List.of(tokens.get(++i).text()));
      }
      if (token.position() - first >= MAX_POSITIONS) {
        continue;
      }
      List<Branch> here = branches.computeIfAbsent(token.position(), at -> new ArrayList<>());
      Branch same =
          here.stream()
              .filter(branch -> !branch.together && branch.span == token.span())
              .findFirst()
              .orElse(null);
      if (slots.size() == 1 && same != null) {
        same.slots.getFirst().add(token.text());
      } else {
        here.add(new Branch(slots, token.span(), slots.size() > 1));
      }
    }
    return branches;
  }

  private static void follow(
      NavigableMap<Integer, List<Branch>> branches,
      int position,
      int offset,
      List<List<String>> slots,
      List<Integer> offsets,
      List<Path> paths) {
    Integer next = branches.ceilingKey(position);
    if (next == null) {
      paths.add(
          new Path(List.copyOf(slots), offsets.stream().mapToInt(Integer::intValue).toArray()));
      return;
    }
    int at = offset + next - position;
    for (Branch branch : branches.getOrDefault(next, List.of())) {
      if (paths.size() >= MAX_PATHS) {
        return;
      }
      for (List<String> slot : branch.slots) {
        slots.add(List.copyOf(slot));
        offsets.add(at);
      }
      follow(branches, next + Math.max(1, branch.span), at + 1, slots, offsets, paths);
      for (int i = 0; i < branch.slots.size(); i++) {
        slots.removeLast();
        offsets.removeLast();
      }
    }
  }

  public static byte[] utf8(String term) {
    return term.getBytes(StandardCharsets.UTF_8);
  }
}
