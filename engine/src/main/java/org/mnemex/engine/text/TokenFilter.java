package org.mnemex.engine.text;

/**
 * Changes, adds or removes tokens. Implementations are immutable; what a run needs is in the sink.
 */
public interface TokenFilter {
  /** The name that definitions use, with its option if it has one: {@code stem: english}. */
  String name();

  /** A sink that filters what it takes and pushes the outcome into {@code next}. */
  TokenSink onto(TokenSink next);
}
