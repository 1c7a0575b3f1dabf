package org.mnemex.engine.text;

import java.util.ArrayList;
import java.util.List;

/**
 * A chain: a tokeniser, then token filters in order. Run once per field value when a document is
 * indexed and once per query.
 */
public final class Analyser {
  private final String name;
  private final Tokeniser tokeniser;
  private final List<TokenFilter> filters;

  public Analyser(String name, Tokeniser tokeniser, List<TokenFilter> filters) {
    this.name = name;
    this.tokeniser = tokeniser;
    this.filters = List.copyOf(filters);
  }

  public String name() {
    return name;
  }

  public Tokeniser tokeniser() {
    return tokeniser;
  }

  public List<TokenFilter> filters() {
    return filters;
  }

  /** Pushes the tokens of {@code text} into {@code sink}. */
  public void analyse(CharSequence text, TokenSink sink) {
    run(text, filters.size(), sink);
  }

  /** The chain set up before a sink, to be run for many texts by one thread. */
  public Run onto(TokenSink sink) {
    return new Run(chain(filters.size(), sink));
  }

  /** A chain that is set up. */
  public final class Run {
    private final TokenSink chain;

    private Run(TokenSink chain) {
      this.chain = chain;
    }

    /** Pushes the tokens of {@code text} into the sink. */
    public void analyse(CharSequence text) {
      tokeniser.tokenise(text, chain);
    }
  }

  /** The tokens of {@code text}, in order of position. */
  public List<AnalysedToken> tokens(CharSequence text) {
    return tokens(text, filters.size());
  }

  /** The tokens after the tokeniser and after every filter, in the order of the chain. */
  public List<Step> trace(CharSequence text) {
    List<Step> steps = new ArrayList<>();
    for (int used = 0; used <= filters.size(); used++) {
      String step = used == 0 ? tokeniser.name() : filters.get(used - 1).name();
      steps.add(new Step(step, tokens(text, used)));
    }
    return steps;
  }

  /** What stands in the definition, for comparison of two versions: {@code words | lowercase}. */
  public String signature() {
    StringBuilder out = new StringBuilder(tokeniser.name());
    filters.forEach(filter -> out.append(" | ").append(filter.name()));
    return out.toString();
  }

  private List<AnalysedToken> tokens(CharSequence text, int filtersUsed) {
    List<AnalysedToken> out = new ArrayList<>();
    run(text, filtersUsed, token -> out.add(AnalysedToken.of(token)));
    return out;
  }

  private void run(CharSequence text, int filtersUsed, TokenSink sink) {
    tokeniser.tokenise(text, chain(filtersUsed, sink));
  }

  private TokenSink chain(int filtersUsed, TokenSink sink) {
    TokenSink chain = sink;
    for (int i = filtersUsed - 1; i >= 0; i--) {
      chain = filters.get(i).onto(chain);
    }
    return chain;
  }

  /**
   * One step of a trace.
   *
   * @param name the tokeniser's or filter's name
   * @param tokens what came out of it
   */
  public record Step(String name, List<AnalysedToken> tokens) {}
}
