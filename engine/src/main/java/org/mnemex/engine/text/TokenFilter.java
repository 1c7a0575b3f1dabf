package org.mnemex.engine.text;

import java.util.List;
import java.util.function.BiConsumer;
import org.jspecify.annotations.Nullable;

/**
 * Changes, adds or removes tokens. Implementations are immutable; what a run needs is in the sink.
 */
public interface TokenFilter {
  /** How many of some words, from the first one on, this filter takes as one; 0 if not several. */
  default int joined(List<String> words) {
    return 0;
  }

  /** The name that definitions use, with its option if it has one: {@code stem: english}. */
  String name();

  /** A sink that filters what it takes and pushes the outcome into {@code next}. */
  TokenSink onto(TokenSink next);

  /** The same filter, told which chain stands before it. */
  default TokenFilter after(Analyser chain) {
    return this;
  }

  /**
   * What stands in the chain for queries in place of this filter; null: nothing. A filter that cuts
   * words into pieces for the index must not cut what is searched for as well.
   */
  default @Nullable TokenFilter forQueries() {
    return this;
  }

  /**
   * A part of a word as this filter writes it; the same unless it changes character by character.
   */
  default String part(String of) {
    return of;
  }

  /** A filter that does something with each token by itself. */
  static TokenFilter each(String name, BiConsumer<Token, TokenSink> what) {
    return new TokenFilter() {
      @Override
      public String name() {
        return name;
      }

      @Override
      public TokenSink onto(TokenSink next) {
        return new Each(what, next);
      }
    };
  }

  /** The sink of {@link #each}. */
  record Each(BiConsumer<Token, TokenSink> what, TokenSink next) implements TokenSink {
    @Override
    public void accept(Token token) {
      what.accept(token, next);
    }

    @Override
    public void end() {
      next.end();
    }
  }
}
