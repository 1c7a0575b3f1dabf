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
  private final Stems stems;

  /**
   * @param keep whether the word itself stays as well, so that its exact form scores more
   */
  StemFilter(String language, SnowballStemmer.ALGORITHM algorithm, boolean keep) {
    this.language = language;
    this.keep = keep;
    this.stems = new Stems(algorithm);
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
          char[] stem = stems.of(token);
          if (keep && !token.is(stem)) {
            output.accept(token);
          }
          token.text(stem);
          output.accept(token);
        },
        next);
  }

  private record Stemmed(char[] word, char[] stem) {}

  /**
   * A table of one slot a hash: a new word takes the place of the old one. All threads read and
   * write it without waiting; at worst one of them finds the stem of a word once more.
   */
  private static final class Stems {
    private final Spares<SnowballStemmer> stemmers;
    private final @Nullable Stemmed[] table = new Stemmed[REMEMBERED];

    Stems(SnowballStemmer.ALGORITHM algorithm) {
      this.stemmers = new Spares<>(() -> new SnowballStemmer(algorithm));
    }

    char[] of(Token token) {
      int slot = WordSet.hash(token.chars(), token.length()) & REMEMBERED - 1;
      Stemmed known = table[slot];
      if (known != null && token.is(known.word())) {
        return known.stem();
      }
      char[] stem = stem(token.text());
      table[slot] = new Stemmed(Arrays.copyOf(token.chars(), token.length()), stem);
      return stem;
    }

    private char[] stem(String word) {
      SnowballStemmer stemmer = stemmers.take();
      try {
        return stemmer.stem(word).toString().toCharArray();
      } finally {
        stemmers.giveBack(stemmer);
      }
    }
  }
}
