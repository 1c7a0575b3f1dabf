package org.mnemex.engine.highlight;

import com.ibm.icu.text.BreakIterator;
import com.ibm.icu.util.ULocale;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;

/**
 * Marks a query's words in one field by analysing the stored text again. Words of a phrase are
 * marked only where the phrase occurs.
 */
public final class Highlighter {
  /** Marks nothing. */
  public static final Highlighter NOTHING =
      new Highlighter(
          new Texts() {
            @Override
            public String readable(String value) {
              return value;
            }

            @Override
            public List<AnalysedToken> tokens(String readable, Budget budget) {
              return List.of();
            }
          },
          Set.of(),
          List.of(),
          List.of());

  private final Texts texts;
  private final Set<String> terms;
  private final List<Predicate<String>> rules;
  private final List<Phrase> phrases;

  /** How the values of a field are read. */
  public interface Texts {
    /** A value as people read it: without the markup that the field's analyser takes out. */
    String readable(String value);

    /**
     * The tokens of what is readable.
     *
     * @throws SearchTimeoutException if the time is over
     */
    List<AnalysedToken> tokens(String readable, Budget budget);

    /** Of a text field. */
    static Texts of(Analyser analyser) {
      Analyser reading = analyser.forReadable();
      return new Texts() {
        @Override
        public String readable(String value) {
          return analyser.readable(value);
        }

        @Override
        public List<AnalysedToken> tokens(String readable, Budget budget) {
          return reading.tokens(
              readable,
              () -> {
                if (!budget.step()) {
                  throw budget.tooLate();
                }
              });
        }
      };
    }
  }

  /**
   * Words that are marked only where they occur consecutively.
   *
   * @param slots whether a term fits
   * @param offsets of the slots from the first
   */
  public record Phrase(List<Predicate<String>> slots, int[] offsets) {}

  /**
   * A highlighter of the texts of a field.
   *
   * @param texts how its values are read
   * @param terms marked wherever they stand
   * @param rules terms for which one of them is true are marked, too
   */
  public Highlighter(
      Texts texts, Set<String> terms, List<Predicate<String>> rules, List<Phrase> phrases) {
    this.texts = texts;
    this.terms = Set.copyOf(terms);
    this.rules = List.copyOf(rules);
    this.phrases = List.copyOf(phrases);
  }

  /** Whether there is anything to mark at all. */
  public boolean isEmpty() {
    return terms.isEmpty() && rules.isEmpty() && phrases.isEmpty();
  }

  /**
   * A text with marks.
   *
   * @param number of the value
   */
  private record Read(int number, String text, List<AnalysedToken> tokens, BitSet marked) {}

  /**
   * A part of a text.
   *
   * @param first token, and the last one
   * @param from where it begins in the text, and where it ends
   * @param cutStart whether it begins in the middle of something, and whether it ends so
   */
  private record Window(
      Read read, int first, int last, int from, int to, boolean cutStart, boolean cutEnd) {
    int marks() {
      return read.marked.get(first, last + 1).cardinality();
    }

    boolean overlaps(Window other) {
      return read.number == other.read.number && first <= other.last && other.first <= last;
    }
  }

  /** The marked value, as {@link #highlight(List, HighlightRequest, Budget)}. */
  public List<String> highlight(String value, HighlightRequest request, Budget budget) {
    return highlight(List.of(value), request, budget);
  }

  /**
   * The marked values of a field.
   *
   * @return escaped HTML: whole values of which something is marked, or the best fragments of all
   *     values in their order; empty if nothing is marked
   * @throws SearchTimeoutException if the time is over
   */
  public List<String> highlight(List<String> values, HighlightRequest request, Budget budget) {
    List<String> out = new ArrayList<>();
    List<Window> candidates = new ArrayList<>();
    for (int i = 0; i < values.size(); i++) {
      String text = texts.readable(values.get(i));
      List<AnalysedToken> tokens = texts.tokens(text, budget);
      BitSet marked = marked(tokens);
      if (marked.isEmpty()) {
        continue;
      }
      Read read = new Read(i, text, tokens, marked);
      if (request.fragments() == 0) {
        out.add(render(read, 0, text.length(), request));
      } else {
        windows(read, request, candidates);
      }
    }
    for (Window window : best(candidates, request.fragments())) {
      String part = render(window.read, window.from, window.to, request).strip();
      out.add((window.cutStart ? "… " : "") + part + (window.cutEnd ? " …" : ""));
    }
    return out;
  }

  /** Whether anything in a value would be marked. */
  public boolean marks(String value, Budget budget) {
    return !marked(texts.tokens(texts.readable(value), budget)).isEmpty();
  }

  /** A value that is marked as a whole, as escaped HTML. */
  public static String whole(String value, HighlightRequest request) {
    return part(value, 0, value.length(), request);
  }

  /**
   * A value of which one part is marked, as escaped HTML.
   *
   * @param from where the part starts, in characters
   * @param to where it ends
   */
  public static String part(String value, int from, int to, HighlightRequest request) {
    StringBuilder out = new StringBuilder();
    escape(value, 0, from, out);
    out.append(request.open());
    escape(value, from, to, out);
    out.append(request.close());
    escape(value, to, value.length(), out);
    return out.toString();
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

  /** A window around each mark, at most so many words long. */
  private static void windows(Read read, HighlightRequest request, List<Window> candidates) {
    List<AnalysedToken> tokens = read.tokens;
    int width = Math.max(1, request.words());
    BreakIterator sentences = null;
    if (request.sentences()) {
      sentences = BreakIterator.getSentenceInstance(ULocale.ROOT);
      sentences.setText(read.text);
    }
    int end = -1;
    for (int i = read.marked.nextSetBit(0); i >= 0; i = read.marked.nextSetBit(i + 1)) {
      if (sentences != null && i <= end) {
        continue;
      }
      Window whole = sentences == null ? null : sentences(read, i, width, sentences);
      if (whole != null) {
        end = whole.last;
        candidates.add(whole);
        continue;
      }
      int first = Math.max(0, i - width / 4);
      int last = Math.min(tokens.size() - 1, first + width - 1);
      first = Math.max(0, Math.min(first, last - width + 1));
      boolean atStart = first == 0;
      boolean atEnd = last == tokens.size() - 1;
      candidates.add(
          new Window(
              read,
              first,
              last,
              atStart ? 0 : tokens.get(first).start(),
              atEnd ? read.text.length() : tokens.get(last).end(),
              !atStart,
              !atEnd));
    }
  }

  /** The sentence of a token and those after it that fit; null if it alone is too long. */
  private static @Nullable Window sentences(
      Read read, int token, int width, BreakIterator sentences) {
    List<AnalysedToken> tokens = read.tokens;
    int from = sentences.preceding(tokens.get(token).start() + 1);
    from = from == BreakIterator.DONE ? 0 : from;
    int first = token;
    while (first > 0 && tokens.get(first - 1).start() >= from) {
      first--;
    }
    int last = -1;
    int to = from;
    for (int end = sentences.following(tokens.get(token).start());
        end != BreakIterator.DONE;
        end = sentences.next()) {
      int fits = Math.max(last, token);
      while (fits + 1 < tokens.size() && tokens.get(fits + 1).end() <= end) {
        fits++;
      }
      if (fits - first + 1 > width) {
        break;
      }
      last = fits;
      to = end;
    }
    return last < 0 ? null : new Window(read, first, last, from, to, false, false);
  }

  /** Those with the most marks, without overlap, in the order of the values. */
  private static List<Window> best(List<Window> candidates, int most) {
    List<Window> byMarks = new ArrayList<>(candidates);
    byMarks.sort(Comparator.comparingInt(Window::marks).reversed());
    List<Window> chosen = new ArrayList<>();
    for (Window candidate : byMarks) {
      if (chosen.size() == most) {
        break;
      }
      if (chosen.stream().noneMatch(candidate::overlaps)) {
        chosen.add(candidate);
      }
    }
    chosen.sort(
        Comparator.<Window>comparingInt(window -> window.read.number)
            .thenComparingInt(Window::first));
    return chosen;
  }

  private static String render(Read read, int from, int to, HighlightRequest request) {
    StringBuilder out = new StringBuilder();
    BitSet marked = read.marked;
    int at = from;
    for (int i = marked.nextSetBit(0); i >= 0; i = marked.nextSetBit(i + 1)) {
      AnalysedToken token = read.tokens.get(i);
      if (token.start() < at || token.end() > to) {
        continue;
      }
      escape(read.text, at, token.start(), out);
      out.append(request.open());
      escape(read.text, token.start(), token.end(), out);
      out.append(request.close());
      at = token.end();
    }
    escape(read.text, at, to, out);
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
