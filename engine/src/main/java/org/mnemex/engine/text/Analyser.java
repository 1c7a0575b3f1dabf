package org.mnemex.engine.text;

import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;

/**
 * A chain: steps that change the text, a tokeniser, then token filters in order. Run once per field
 * value when a document is indexed and once per query.
 */
public final class Analyser {
  /** Steps that make a text longer than so many times itself, and a little, have it cut. */
  private static final int MAX_GROWTH = 4;

  private static final int MAX_MORE = 10_000;

  private final String name;
  private final List<CharFilter> text;
  private final Tokeniser tokeniser;
  private final List<TokenFilter> filters;
  private final AnalyserSpec spec;

  Analyser(
      String name,
      List<CharFilter> text,
      Tokeniser tokeniser,
      List<TokenFilter> filters,
      AnalyserSpec spec) {
    this.name = name;
    this.text = List.copyOf(text);
    this.tokeniser = tokeniser;
    this.spec = spec;
    List<TokenFilter> bound = new ArrayList<>();
    for (TokenFilter filter : filters) {
      bound.add(filter.after(new Analyser(name, text, tokeniser, List.copyOf(bound), spec, true)));
    }
    this.filters = List.copyOf(bound);
  }

  private Analyser(
      String name,
      List<CharFilter> text,
      Tokeniser tokeniser,
      List<TokenFilter> bound,
      AnalyserSpec spec,
      boolean isBound) {
    this.name = name;
    this.text = List.copyOf(text);
    this.tokeniser = tokeniser;
    this.filters = bound;
    this.spec = spec;
    if (!isBound) {
      throw new IllegalArgumentException("filters must know what stands before them");
    }
  }

  public String name() {
    return name;
  }

  /** How the chain is written in a definition. */
  public AnalyserSpec spec() {
    return spec;
  }

  /** The same chain for what is searched for: without cutting into pieces, synonyms as a graph. */
  public Analyser forQueries() {
    List<TokenFilter> own = new ArrayList<>();
    for (TokenFilter filter : filters) {
      TokenFilter other = filter.forQueries();
      if (other != null) {
        own.add(other);
      }
    }
    return new Analyser(name, text, tokeniser.forQueries(), own, spec, true);
  }

  /**
   * How many of some words, from the first one on, the chain takes as one, such as those of a
   * phrase with synonyms; 0 if not several.
   */
  public int joined(List<String> words) {
    return filters.stream().mapToInt(filter -> filter.joined(words)).max().orElse(0);
  }

  /** A value as people read it: without the markup that the chain takes out. */
  public String readable(String value) {
    MappedText out = MappedText.of(value);
    int most = most(value);
    for (CharFilter step : text) {
      out = step.makesReadable() ? step.apply(out).first(most) : out;
    }
    return out.text();
  }

  /** The same chain for what {@link #readable} gives. */
  public Analyser forReadable() {
    List<CharFilter> own = text.stream().filter(step -> !step.makesReadable()).toList();
    return own.size() == text.size()
        ? this
        : new Analyser(name, own, tokeniser, filters, spec, true);
  }

  /** A part of a word as the chain writes it: in lower case or folded, if the chain does that. */
  public String part(String of) {
    String out = of;
    for (TokenFilter filter : filters) {
      out = filter.part(out);
    }
    return out;
  }

  /** Pushes the tokens of {@code text} into {@code sink}, and ends it. */
  public void analyse(CharSequence text, TokenSink sink) {
    onto(sink).analyse(text);
  }

  /** The chain set up before a sink, to be run for many texts by one thread. */
  public Run onto(TokenSink sink) {
    return new Run(filters.size(), sink);
  }

  /** A chain that is set up. */
  public final class Run {
    private final TokenSink chain;

    private Run(int filtersUsed, TokenSink sink) {
      TokenSink built = sink;
      for (int i = filtersUsed - 1; i >= 0; i--) {
        built = filters.get(i).onto(built);
      }
      this.chain = built;
    }

    /** Pushes the tokens of {@code from} into the sink, and ends it. */
    public void analyse(CharSequence from) {
      if (text.isEmpty()) {
        tokeniser.tokenise(from, chain);
      } else {
        MappedText mapped = mapped(from.toString());
        tokeniser.tokenise(mapped.text(), new Unmapped(mapped, chain));
      }
      chain.end();
    }
  }

  private static int most(CharSequence from) {
    return (int) Math.min(Integer.MAX_VALUE, (long) MAX_GROWTH * from.length() + MAX_MORE);
  }

  private MappedText mapped(String from) {
    MappedText mapped = MappedText.of(from);
    int most = most(from);
    for (CharFilter step : text) {
      mapped = step.apply(mapped).first(most);
    }
    return mapped;
  }

  /** Gives tokens of a changed text their places in the original. */
  private record Unmapped(MappedText mapped, TokenSink next) implements TokenSink {
    @Override
    public void accept(Token token) {
      token.place(mapped.start(token.start()), mapped.end(token.end() - 1), token.position());
      next.accept(token);
    }
  }

  /** The tokens of {@code text}, in order of position. */
  public List<AnalysedToken> tokens(CharSequence text) {
    return tokens(text, filters.size());
  }

  /**
   * The tokens of {@code text}, in order of position.
   *
   * @param before runs before each token, and stops the analysis by throwing
   */
  public List<AnalysedToken> tokens(CharSequence text, Runnable before) {
    List<AnalysedToken> out = new ArrayList<>();
    analyse(
        text,
        token -> {
          before.run();
          out.add(AnalysedToken.of(token));
        });
    return out;
  }

  /** The text after each step that changes it, then the tokens after each further step. */
  public List<Step> trace(CharSequence text) {
    List<Step> steps = new ArrayList<>();
    MappedText mapped = MappedText.of(text.toString());
    for (CharFilter step : this.text) {
      mapped = step.apply(mapped).first(most(text));
      steps.add(new Step(step.name(), mapped.text(), List.of()));
    }
    for (int used = 0; used <= filters.size(); used++) {
      String step = used == 0 ? tokeniser.name() : filters.get(used - 1).name();
      steps.add(new Step(step, null, tokens(text, used)));
    }
    return steps;
  }

  /** What decides the outcome, for comparison of two versions: {@code words | lowercase}. */
  public String signature() {
    StringBuilder out = new StringBuilder();
    Stream.concat(
            text.stream().map(CharFilter::name),
            Stream.concat(Stream.of(tokeniser.name()), filters.stream().map(TokenFilter::name)))
        .forEach(step -> out.append(out.isEmpty() ? "" : " | ").append(step));
    return out.toString();
  }

  /** Combinations in this chain that mostly do harm, in sentences; empty if there are none. */
  public List<String> warnings() {
    return ChainCheck.warnings(spec);
  }

  private List<AnalysedToken> tokens(CharSequence from, int filtersUsed) {
    List<AnalysedToken> out = new ArrayList<>();
    new Run(filtersUsed, token -> out.add(AnalysedToken.of(token))).analyse(from);
    return out;
  }

  /**
   * One step of a trace.
   *
   * @param name the step's name, with its option
   * @param text the text that came out of it; null if tokens did
   * @param tokens the tokens that came out of it
   */
  public record Step(
      String name, @org.jspecify.annotations.Nullable String text, List<AnalysedToken> tokens) {}
}
