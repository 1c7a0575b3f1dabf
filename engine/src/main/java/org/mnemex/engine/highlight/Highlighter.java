package org.mnemex.engine.highlight;

import java.util.ArrayList;
import java.util.BitSet;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Predicate;
import org.mnemex.engine.query.PatternText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.EditDistance;
import org.mnemex.engine.text.Folding;
import org.mnemex.engine.text.TokenPaths;

/**
 * Marks the words of one field that a query asks for, by analysing the stored text again. Words of
 * a phrase are marked only where the phrase stands.
 */
public final class Highlighter {
  private static final String OPEN = "<mark>";
  private static final String CLOSE = "</mark>";

  private final Analyser analyser;
  private final Set<String> terms = new HashSet<>();
  private final List<String> prefixes = new ArrayList<>();
  private final List<Predicate<String>> rules = new ArrayList<>();
  private final List<List<AnalysedToken>> phrases = new ArrayList<>();

  /** A highlighter for what {@code query} asks of a text field. */
  public Highlighter(Query query, Field field) {
    if (field.type() != FieldType.TEXT || field.analyser() == null) {
      throw new IllegalArgumentException("field '" + field.name() + "' is no text field");
    }
    this.analyser = field.analyser();
    collect(query, field);
  }

  private void collect(Query query, Field field) {
    switch (query) {
      case Query.AllOf all -> all.clauses().forEach(clause -> collect(clause, field));
      case Query.AnyOf any -> any.clauses().forEach(clause -> collect(clause, field));
      case Query.Word word when word.fields().containsKey(field.name()) -> {
        List<AnalysedToken> tokens = queryTokens(field, word.text());
        if (word.prefix()) {
          if (tokens.isEmpty()) {
            prefixes.add(Folding.foldCase(word.text()));
          }
          tokens.forEach(token -> prefixes.add(token.text()));
        } else {
          addPaths(tokens);
        }
      }
      case Query.Phrase phrase when phrase.fields().containsKey(field.name()) -> {
        List<AnalysedToken> tokens = queryTokens(field, phrase.text());
        if (phrase.distance() > 0) {
          tokens.forEach(token -> terms.add(token.text()));
        } else {
          addPaths(tokens);
        }
      }
      case Query.Term term when term.field().equals(field.name()) -> terms.add(term.term());
      case Query.Prefer prefer -> {
        collect(prefer.query(), field);
        collect(prefer.preferred(), field);
      }
      case Query.Weighted weighted -> collect(weighted.query(), field);
      case Query.Near near when near.fields().containsKey(field.name()) ->
          near.words().stream()
              .flatMap(word -> queryTokens(field, word).stream())
              .forEach(token -> terms.add(token.text()));
      case Query.Typo typo when typo.fields().containsKey(field.name()) ->
          queryTokens(field, typo.text())
              .forEach(
                  token ->
                      rules.add(
                          term ->
                              EditDistance.within(
                                  token.text(), term, typo.edits(), typo.same(), typo.prefix())));
      case Query.Wildcard wildcard when wildcard.fields().containsKey(field.name()) -> {
        var automaton = PatternText.wildcard(Folding.foldCase(wildcard.pattern()));
        rules.add(automaton::matches);
      }
      case Query.Pattern pattern when pattern.fields().containsKey(field.name()) -> {
        var automaton = PatternText.compile(pattern.expression());
        rules.add(automaton::matches);
      }
      default -> {
        // Filters and exclusions have nothing to mark.
      }
    }
  }

  /** Every way through the tokens is marked where it stands. */
  private void addPaths(List<AnalysedToken> tokens) {
    for (TokenPaths.Path path : TokenPaths.of(tokens)) {
      if (path.terms().size() == 1) {
        terms.add(path.terms().getFirst());
        continue;
      }
      List<AnalysedToken> phrase = new ArrayList<>();
      for (int i = 0; i < path.terms().size(); i++) {
        phrase.add(new AnalysedToken(path.terms().get(i), 0, 0, path.offsets()[i], 1));
      }
      phrases.add(phrase);
    }
  }

  private static List<AnalysedToken> queryTokens(Field field, String text) {
    return field.queryAnalyser() == null ? List.of() : field.queryAnalyser().tokens(text);
  }

  /** Whether there is anything to mark at all. */
  public boolean isEmpty() {
    return terms.isEmpty() && prefixes.isEmpty() && rules.isEmpty() && phrases.isEmpty();
  }

  /**
   * The marked text.
   *
   * @return escaped HTML: the whole value or the best fragments; empty if nothing is marked
   */
  public List<String> highlight(String text, HighlightRequest request) {
    List<AnalysedToken> tokens = analyser.tokens(text);
    BitSet marked = marked(tokens);
    if (marked.isEmpty()) {
      return List.of();
    }
    if (request.fragments() == 0) {
      return List.of(render(text, tokens, marked, 0, text.length()));
    }
    List<String> out = new ArrayList<>();
    for (int[] window : bestWindows(tokens, marked, request)) {
      int start = tokens.get(window[0]).start();
      int end = tokens.get(window[1]).end();
      boolean first = window[0] == 0;
      boolean last = window[1] == tokens.size() - 1;
      String part =
          render(text, tokens, marked, first ? 0 : start, last ? text.length() : end).strip();
      out.add((first ? "" : "… ") + part + (last ? "" : " …"));
    }
    return out;
  }

  private BitSet marked(List<AnalysedToken> tokens) {
    BitSet marked = new BitSet(tokens.size());
    for (int i = 0; i < tokens.size(); i++) {
      String term = tokens.get(i).text();
      if (terms.contains(term)
          || prefixes.stream().anyMatch(term::startsWith)
          || rules.stream().anyMatch(rule -> rule.test(term))) {
        marked.set(i);
      }
      for (List<AnalysedToken> phrase : phrases) {
        markPhrase(tokens, i, phrase, marked);
      }
    }
    return marked;
  }

  private static void markPhrase(
      List<AnalysedToken> tokens, int at, List<AnalysedToken> phrase, BitSet marked) {
    BitSet found = new BitSet();
    int base = tokens.get(at).position() - phrase.getFirst().position();
    int i = at;
    for (AnalysedToken wanted : phrase) {
      int position = base + wanted.position();
      while (i < tokens.size() && tokens.get(i).position() < position) {
        i++;
      }
      int same = i;
      while (same < tokens.size()
          && tokens.get(same).position() == position
          && !tokens.get(same).text().equals(wanted.text())) {
        same++;
      }
      if (same == tokens.size() || tokens.get(same).position() != position) {
        return;
      }
      found.set(same);
    }
    marked.or(found);
  }

  /** Windows of tokens with the most marks, without overlap, in the order of the text. */
  private static List<int[]> bestWindows(
      List<AnalysedToken> tokens, BitSet marked, HighlightRequest request) {
    record Window(int first, int last, int marks) {}
    List<Window> candidates = new ArrayList<>();
    int width = Math.max(1, request.words());
    for (int i = marked.nextSetBit(0); i >= 0; i = marked.nextSetBit(i + 1)) {
      int first = Math.max(0, i - width / 4);
      int last = Math.min(tokens.size() - 1, first + width - 1);
      first = Math.max(0, Math.min(first, last - width + 1));
      candidates.add(new Window(first, last, marked.get(first, last + 1).cardinality()));
    }
    candidates.sort(
        Comparator.comparingInt(Window::marks).reversed().thenComparingInt(Window::first));
    List<Window> chosen = new ArrayList<>();
    for (Window candidate : candidates) {
      if (chosen.size() == request.fragments()) {
        break;
      }
      if (chosen.stream().noneMatch(w -> candidate.first <= w.last && w.first <= candidate.last)) {
        chosen.add(candidate);
      }
    }
    chosen.sort(Comparator.comparingInt(Window::first));
    return chosen.stream().map(window -> new int[] {window.first, window.last}).toList();
  }

  private static String render(
      String text, List<AnalysedToken> tokens, BitSet marked, int from, int to) {
    StringBuilder out = new StringBuilder();
    int at = from;
    for (int i = marked.nextSetBit(0); i >= 0; i = marked.nextSetBit(i + 1)) {
      AnalysedToken token = tokens.get(i);
      if (token.start() < at || token.end() > to) {
        continue;
      }
      escape(text, at, token.start(), out);
      out.append(OPEN);
      escape(text, token.start(), token.end(), out);
      out.append(CLOSE);
      at = token.end();
    }
    escape(text, at, to, out);
    return out.toString();
  }

  private static void escape(String text, int from, int to, StringBuilder out) {
    for (int i = from; i < to; i++) {
      char c = text.charAt(i);
      switch (c) {
        case '&' -> out.append("&amp;");
        case '<' -> out.append("&lt;");
        case '>' -> out.append("&gt;");
        case '"' -> out.append("&quot;");
        case '\'' -> out.append("&#39;");
        default -> out.append(c);
      }
    }
  }
}
