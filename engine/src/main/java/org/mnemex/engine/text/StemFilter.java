package org.mnemex.engine.text;

import java.util.HashMap;
import java.util.Map;
import opennlp.tools.stemmer.snowball.SnowballStemmer;

/** Words to their stems by the Snowball algorithm of a language (Porter 2001). */
final class StemFilter implements TokenFilter {
  /** Words repeat (Zipf's law), so a small table of seen words saves most of the work. */
  private static final int REMEMBERED = 16_384;

  private final String language;
  private final ThreadLocal<Stems> stems;

  StemFilter(String language, SnowballStemmer.ALGORITHM algorithm) {
    this.language = language;
    this.stems = ThreadLocal.withInitial(() -> new Stems(new SnowballStemmer(algorithm)));
  }

  @Override
  public String name() {
    return "stem: " + language;
  }

  @Override
  public TokenSink onto(TokenSink next) {
    Stems mine = stems.get();
    return token -> {
      token.text(mine.of(token.text()));
      next.accept(token);
    };
  }

  private static final class Stems {
    private final SnowballStemmer stemmer;
    private final Map<String, String> seen = new HashMap<>();

    Stems(SnowballStemmer stemmer) {
      this.stemmer = stemmer;
    }

    String of(String word) {
      String stem = seen.get(word);
      if (stem == null) {
        if (seen.size() >= REMEMBERED) {
          seen.clear();
        }
        stem = stemmer.stem(word).toString();
        seen.put(word, stem);
      }
      return stem;
    }
  }
}
