package org.mnemex.engine.text;

import com.ibm.icu.text.Normalizer2;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;

/** The steps that definitions can name, and the analysers that exist without being defined. */
public final class Components {
  private static final int MAX_GRAM = 20;

  /** Steps for the text and token filters of one analyser. */
  private static final int MAX_STEPS = 64;

  private static final Map<String, Function<Options, CharFilter>> TEXT = new TreeMap<>();
  private static final Map<String, Function<Options, Tokeniser>> TOKENISERS = new TreeMap<>();
  private static final Map<String, Function<Options, TokenFilter>> FILTERS = new TreeMap<>();
  private static final Map<String, Analyser> ANALYSERS = new TreeMap<>();

  static {
    TEXT.put("normalise", Components::normalise);
    TEXT.put("strip_html", options -> new HtmlFilter());
    TEXT.put("map", options -> new TableFilter(options.table()));
    TEXT.put("replace", Components::replace);

    Tokeniser words = new WordsTokeniser();
    TOKENISERS.put("words", options -> words);
    TOKENISERS.put(
        "whitespace", options -> new WhereTokeniser("whitespace", c -> !Character.isWhitespace(c)));
    TOKENISERS.put("letters", options -> new WhereTokeniser("letters", Character::isLetter));
    TOKENISERS.put("whole", options -> new WholeTokeniser());
    TOKENISERS.put(
        "pattern",
        options -> new PatternTokeniser(options.pattern("find"), options.flag("between")));
    TOKENISERS.put(
        "path",
        options -> {
          String separator = options.text("separator", "/");
          if (separator.length() != 1) {
            throw options.problem("the separator is one character", null);
          }
          return new PathTokeniser(separator.charAt(0));
        });
    TOKENISERS.put(
        "ngrams",
        options -> {
          int least = options.number("min", 2, 1, MAX_GRAM);
          return new GramTokeniser(
              least, options.number("max", Math.max(3, least), least, MAX_GRAM));
        });
    TOKENISERS.put("cjk_pairs", options -> new CjkPairsTokeniser());

    FILTERS.put(
        "lowercase",
        options -> {
          String language = options.word("language", "none", Set.of("none", "turkish", "greek"));
          return new CaseFilter(CaseFilter.Language.valueOf(language.toUpperCase(Locale.ROOT)));
        });
    FILTERS.put("fold", options -> new FoldFilter());
    FILTERS.put("elide", options -> new ElideFilter());
    FILTERS.put("possessive", options -> new PossessiveFilter());
    FILTERS.put("stop", Components::stop);
    FILTERS.put(
        "stem",
        options -> {
          String language = options.word("language", null, Languages.withStemmer());
          return new StemFilter(
              language, Objects.requireNonNull(Languages.stemmer(language)), options.flag("keep"));
        });
    FILTERS.put(
        "protect",
        options -> {
          WordSet kept = new WordSet(given(options, "words"));
          return TokenFilter.each(
              "protect: " + options.texts("words"),
              (token, output) -> {
                if (kept.contains(token.chars(), token.length())) {
                  token.protect();
                }
                output.accept(token);
              });
        });
    FILTERS.put("synonyms", options -> new SynonymFilter(given(options, "rules")));
    FILTERS.put("prefixes", options -> pieces(options, false));
    FILTERS.put("ngrams", options -> pieces(options, true));
    FILTERS.put("word_pairs", options -> new WordPairsFilter());
    FILTERS.put("split_words", options -> new SplitWordsFilter());
    FILTERS.put(
        "compounds",
        options -> {
          List<String> parts = given(options, "words");
          return new CompoundFilter("compounds: " + parts, parts);
        });
    FILTERS.put(
        "phonetic", options -> Phonetics.filter(options.word("code", null, Phonetics.codes())));
    FILTERS.put(
        "length",
        options -> {
          int least = options.number("min", 1, 0, Token.MAX_LENGTH);
          int most = options.number("max", Token.MAX_LENGTH, least, Token.MAX_LENGTH);
          return TokenFilter.each(
              "length: %d to %d".formatted(least, most),
              (token, output) -> {
                int length = Character.codePointCount(token.chars(), 0, token.length());
                if (length >= least && length <= most) {
                  output.accept(token);
                }
              });
        });
    FILTERS.put(
        "trim",
        options ->
            TokenFilter.each(
                "trim",
                (token, output) -> {
                  token.text(token.text().strip());
                  if (token.length() > 0) {
                    output.accept(token);
                  }
                }));
    FILTERS.put("unique", options -> new UniqueFilter());
    FILTERS.put("replace", options -> replace(options).onTokens());
    FILTERS.put(
        "keep_words",
        options -> {
          WordSet kept = new WordSet(given(options, "words"));
          return TokenFilter.each(
              "keep_words: " + options.texts("words"),
              (token, output) -> {
                if (kept.contains(token.chars(), token.length())) {
                  output.accept(token);
                }
              });
        });
    FILTERS.put(
        "reverse",
        options ->
            TokenFilter.each(
                "reverse",
                (token, output) -> {
                  token.text(new StringBuilder(token.text()).reverse().toString());
                  output.accept(token);
                }));
    FILTERS.put("limit", options -> new LimitFilter(options.number("tokens", 1_000, 1, 1_000_000)));

    builtIn();
  }

  private Components() {}

  /** Whether an analyser is that of a language for which there should be a stemmer and is none. */
  public static boolean isWithoutStemmer(String analyser) {
    return Languages.lacksStemmer(analyser);
  }

  /** The analysers that exist without being defined, by name. */
  public static Map<String, Analyser> analysers() {
    return Collections.unmodifiableMap(ANALYSERS);
  }

  /**
   * Makes an analyser.
   *
   * @throws ComponentException for the first step that does not exist or fit, with what to do
   */
  public static Analyser analyser(String name, AnalyserSpec spec) {
    if (spec.text().size() + spec.filters().size() > MAX_STEPS) {
      throw new ComponentException(
          spec.filters().isEmpty() ? "" : spec.filters().getLast().name(),
          "an analyser has at most %d steps, not %d"
              .formatted(MAX_STEPS, spec.text().size() + spec.filters().size()),
          null);
    }
    List<CharFilter> text = new ArrayList<>();
    for (ComponentSpec step : spec.text()) {
      text.add(make("step for the text", TEXT, step));
    }
    Tokeniser tokeniser = make("tokeniser", TOKENISERS, spec.tokeniser());
    List<TokenFilter> filters = new ArrayList<>();
    for (ComponentSpec step : spec.filters()) {
      filters.add(make("token filter", FILTERS, step));
    }
    return new Analyser(name, text, tokeniser, filters, spec);
  }

  private static <T> T make(
      String what, Map<String, Function<Options, T>> known, ComponentSpec spec) {
    Function<Options, T> maker = known.get(spec.name());
    if (maker == null) {
      throw new ComponentException(
          spec.name(),
          "there is no %s '%s'; there are %s"
              .formatted(what, spec.name(), String.join(", ", known.keySet())),
          NearestName.to(spec.name(), known.keySet()));
    }
    Options options = new Options(spec);
    options.checkSize();
    T made = maker.apply(options);
    options.finish();
    return made;
  }

  private static CharFilter normalise(Options options) {
    String form = options.word("form", "nfkc", Set.of("nfc", "nfkc", "nfkc_fold"));
    return new NormaliseFilter(
        form,
        switch (form) {
          case "nfc" -> Normalizer2.getNFCInstance();
          case "nfkc" -> Normalizer2.getNFKCInstance();
          default -> Normalizer2.getNFKCCasefoldInstance();
        });
  }

  private static ReplaceFilter replace(Options options) {
    return new ReplaceFilter(options.pattern("find"), options.ownText("with", ""));
  }

  private static List<String> given(Options options, String option) {
    List<String> values = options.texts(option);
    if (values.isEmpty()) {
      throw options.problem("needs a list of " + option, null);
    }
    return values;
  }

  private static TokenFilter stop(Options options) {
    List<String> given = options.texts("words");
    if (given.size() == 1 && Stopwords.languages().contains(given.getFirst())) {
      return new StopFilter("stop: " + given.getFirst(), Stopwords.of(given.getFirst()));
    }
    if (given.size() < 2) {
      String value = given.isEmpty() ? "" : given.getFirst();
      throw options.problem(
          "there are no stopwords for '%s'; there are some for %s, or give a list of words"
              .formatted(value, String.join(", ", Stopwords.languages())),
          NearestName.to(value, Stopwords.languages()));
    }
    return new StopFilter("stop: " + given, given);
  }

  private static PieceFilter pieces(Options options, boolean anywhere) {
    int least = options.number("min", anywhere ? 3 : 1, 1, MAX_GRAM);
    return new PieceFilter(
        anywhere,
        least,
        options.number("max", Math.max(anywhere ? 3 : 15, least), least, MAX_GRAM));
  }

  private static void builtIn() {
    ComponentSpec words = ComponentSpec.of("words");
    ComponentSpec lowercase = ComponentSpec.of("lowercase");
    ComponentSpec fold = ComponentSpec.of("fold");
    put("words", words, lowercase, fold);
    put("simple", ComponentSpec.of("letters"), lowercase);
    put("whole", ComponentSpec.of("whole"), lowercase, fold);
    put("prefixes", words, lowercase, fold, ComponentSpec.of("prefixes"));
    for (String language : Languages.all()) {
      List<ComponentSpec> filters = new ArrayList<>();
      if (language.equals("english")) {
        filters.add(ComponentSpec.of("possessive"));
      }
      if (Languages.ELIDING.contains(language)) {
        filters.add(ComponentSpec.of("elide"));
      }
      filters.add(
          Set.of("turkish", "greek").contains(language)
              ? ComponentSpec.of("lowercase", language)
              : lowercase);
      if (Stopwords.languages().contains(language)) {
        filters.add(ComponentSpec.of("stop", language));
      }
      if (Languages.withStemmer().contains(language)) {
        filters.add(ComponentSpec.of("stem", language));
      }
      filters.add(fold);
      put(language, words, filters.toArray(ComponentSpec[]::new));
    }
  }

  private static void put(String name, ComponentSpec tokeniser, ComponentSpec... filters) {
    ANALYSERS.put(name, analyser(name, new AnalyserSpec(List.of(), tokeniser, List.of(filters))));
  }
}
