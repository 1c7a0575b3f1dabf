package org.mnemex.engine.text;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;

/**
 * The ways through the tokens of a query. Tokens at the same position are alternatives; a token
 * that spans several positions stands beside the tokens it spans, as a synonym of several words
 * does.
 */
public final class TokenPaths {
  /** More ways are not followed. */
  private static final int MOST = 64;

  private TokenPaths() {}

  /**
   * One way through.
   *
   * @param terms one behind the other
   * @param offsets where each stands, counted in words, with holes where stopwords were
   */
  public record Path(List<String> terms, int[] offsets) {}

  /** All ways, at most {@link #MOST}; none if there are no tokens. */
  public static List<Path> of(List<AnalysedToken> tokens) {
    List<Path> paths = new ArrayList<>();
    if (!tokens.isEmpty()) {
      int first = tokens.stream().mapToInt(AnalysedToken::position).min().orElse(0);
      follow(tokens, first, 0, new ArrayList<>(), new ArrayList<>(), paths);
    }
    return paths;
  }

  private static void follow(
      List<AnalysedToken> tokens,
      int position,
      int offset,
      List<String> terms,
      List<Integer> offsets,
      List<Path> paths) {
    int next = Integer.MAX_VALUE;
    for (AnalysedToken token : tokens) {
      if (token.position() >= position) {
        next = Math.min(next, token.position());
      }
    }
    if (next == Integer.MAX_VALUE) {
      paths.add(
          new Path(List.copyOf(terms), offsets.stream().mapToInt(Integer::intValue).toArray()));
      return;
    }
    int at = offset + next - position;
    for (AnalysedToken token : tokens) {
      if (token.position() == next && paths.size() < MOST) {
        terms.add(token.text());
        offsets.add(at);
        follow(tokens, next + token.span(), at + 1, terms, offsets, paths);
        terms.removeLast();
        offsets.removeLast();
      }
    }
  }

  public static byte[] utf8(String term) {
    return term.getBytes(StandardCharsets.UTF_8);
  }
}
