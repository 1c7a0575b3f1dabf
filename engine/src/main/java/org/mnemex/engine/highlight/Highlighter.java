package org.mnemex.engine.highlight;

import java.util.ArrayList;
import java.util.BitSet;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.function.Predicate;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;

/**
 * Marks the words of one field that a query asks for, by analysing the stored text again. Words of
 * a phrase are marked only where the phrase stands.
 */
public final class Highlighter {
  private static final String OPEN = "<mark>";
  private static final String CLOSE = "</mark>";

  private final Analyser analyser;
  private final Set<String> terms;
  private final List<Predicate<String>> rules;
  private final List<Phrase> phrases;

  /**
   * Words that are marked only where they stand one behind the other.
   *
   * @param slots whether a term fits
   * @param offsets of the slots from the first
   */
  public record Phrase(List<Predicate<String>> slots, int[] offsets) {}

  /**
   * A highlighter of the texts of a field.
   *
   * @param analyser the field's
   * @param terms marked wherever they stand
   * @param rules terms for which one of them is true are marked, too
   */
  public Highlighter(
      Analyser analyser, Set<String> terms, List<Predicate<String>> rules, List<Phrase> phrases) {
    this.analyser = analyser;
    this.terms = Set.copyOf(terms);
    this.rules = List.copyOf(rules);
    this.phrases = List.copyOf(phrases);
  }

  /** Whether there is anything to mark at all. */
  public boolean isEmpty() {
    return terms.isEmpty() && rules.isEmpty() && phrases.isEmpty();
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
      if (terms.contains(term) || rules.stream().anyMatch(rule -> rule.test(term))) {
        marked.set(i);
      }
      for (Phrase phrase : phrases) {
        markPhrase(tokens, i, phrase, marked);
      }
    }
    return marked;
  }

  private static void markPhrase(List<AnalysedToken> tokens, int at, Phrase phrase, BitSet marked) {
    BitSet found = new BitSet();
    int base = tokens.get(at).position() - phrase.offsets[0];
    int i = at;
    for (int slot = 0; slot < phrase.offsets.length; slot++) {
      int position = base + phrase.offsets[slot];
      while (i < tokens.size() && tokens.get(i).position() < position) {
        i++;
      }
      int same = i;
      while (same < tokens.size()
          && tokens.get(same).position() == position
          && !phrase.slots.get(slot).test(tokens.get(same).text())) {
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
