package org.mnemex.engine.text;

import java.util.Arrays;
import opennlp.tools.stemmer.snowball.SnowballStemmer;
import org.jspecify.annotations.Nullable;

/**
 * Words to their stems by the Snowball algorithm of a language (Porter 2001). Words repeat (Zipf's
 * law), so a bounded table of seen words saves most of the work.
 */
final class StemFilter implements TokenFilter {
  private static final int REMEMBERED = 1 << 15;

  private final String language;
  private final boolean keep;
  private final ThreadLocal<Stems> stems;

  /**
   * @param keep whether the word itself stays as well, so that its exact form scores more
   */
  StemFilter(String language, SnowballStemmer.ALGORITHM algorithm, boolean keep) {
    this.language = language;
    this.keep = keep;
    this.stems = ThreadLocal.withInitial(() -> new Stems(new SnowballStemmer(algorithm)));
  }

  @Override
  public String name() {
    return "stem: " + language + (keep ? ", keeping words" : "");
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(
        (token, output) -> {
          if (token.isProtected()) {
            output.accept(token);
            return;
          }
          // The chain may be handed from thread to thread, so whose it is now is asked each time.
          char[] stem = stems.get().of(token);
          if (keep && !token.is(stem)) {
            output.accept(token);
          }
          token.text(stem);
          output.accept(token);
        },
        next);
  }

  /** A table of one slot a hash: a new word takes the place of the old one. */
  private static final class Stems {
    private final SnowballStemmer stemmer;
    private final char @Nullable [][] words = new char[REMEMBERED][];
    private final char[][] stems = new char[REMEMBERED][];

    Stems(SnowballStemmer stemmer) {
      this.stemmer = stemmer;
    }

    char[] of(Token token) {
      int slot = WordSet.hash(token.chars(), token.length()) & REMEMBERED - 1;
      char[] word = words[slot];
      if (word != null && Arrays.equals(word, 0, word.length, token.chars(), 0, token.length())) {
        return stems[slot];
      }
      char[] stem = stemmer.stem(token.text()).toString().toCharArray();
      words[slot] = Arrays.copyOf(token.chars(), token.length());
      stems[slot] = stem;
      return stem;
    }
  }
}
