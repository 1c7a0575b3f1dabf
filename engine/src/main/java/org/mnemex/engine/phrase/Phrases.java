package org.mnemex.engine.phrase;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.text.EditTable;
import org.mnemex.engine.text.Folding;

/**
 * Phrases with weights, found by what is typed of them: by their beginning or the beginning of any
 * of their words, without regard to case and accents, with typing errors if need be. All beginnings
 * are kept in order in memory, some 100 bytes for each word.
 */
public final class Phrases {
  private static final Pattern WORD = Pattern.compile("[\\p{L}\\p{M}\\p{N}]+");
  private static final HighlightRequest MARKS = new HighlightRequest("", 0, 0);

  private final List<Phrase> phrases;

  /** The rest of a phrase from each of its words, folded, in order; beside it whose it is. */
  private final String[] rests;

  private final int[] owners;
  private final int[] words;

  /**
   * A phrase.
   *
   * @param weight how much it is preferred, from 0
   */
  public record Phrase(String text, double weight) {}

  /** How well a phrase fits what was typed, the best first. */
  public enum Fit {
    /** The phrase begins with what was typed. */
    BEGINS,
    /** The phrase contains what was typed, from the beginning of a later word. */
    INSIDE,
    /** It fits only if typing errors are allowed. */
    ERRORS
  }

  /**
   * A phrase that fits.
   *
   * @param word the first of its words that were typed, from 0
   * @param typed how many were typed
   */
  public record Found(Phrase phrase, Fit fit, int word, int typed) {
    public static final Comparator<Found> BEST_FIRST =
        Comparator.comparing(Found::fit)
            .thenComparing(Comparator.comparingDouble((Found one) -> one.phrase.weight).reversed())
            .thenComparing(one -> one.phrase.text);

    /** The phrase as escaped HTML, with the typed words marked. */
    public String marked() {
      List<MatchResult> all = WORD.matcher(phrase.text).results().toList();
      int last = Math.min(word + typed, all.size()) - 1;
      return Highlighter.part(phrase.text, all.get(word).start(), all.get(last).end(), MARKS);
    }
  }

  private record Beginning(String rest, int owner, int word) {}

  private Phrases(List<Phrase> phrases) {
    this.phrases = phrases;
    List<Beginning> all = new ArrayList<>();
    for (int owner = 0; owner < phrases.size(); owner++) {
      List<String> folded = words(phrases.get(owner).text);
      for (int word = 0; word < folded.size(); word++) {
        all.add(new Beginning(String.join(" ", folded.subList(word, folded.size())), owner, word));
      }
    }
    all.sort(Comparator.comparing(Beginning::rest));
    rests = all.stream().map(Beginning::rest).toArray(String[]::new);
    owners = all.stream().mapToInt(Beginning::owner).toArray();
    words = all.stream().mapToInt(Beginning::word).toArray();
  }

  /** Phrases in any order. Of those that differ by case, accents or marks the heaviest is kept. */
  public static Phrases of(List<Phrase> phrases) {
    Map<String, Phrase> heaviest = new HashMap<>();
    for (Phrase phrase : phrases) {
      heaviest.merge(
          String.join(" ", words(phrase.text)),
          phrase,
          (a, b) -> Found.BEST_FIRST.compare(begins(a), begins(b)) <= 0 ? a : b);
    }
    heaviest.remove("");
    return new Phrases(List.copyOf(heaviest.values()));
  }

  private static Found begins(Phrase phrase) {
    return new Found(phrase, Fit.BEGINS, 0, 1);
  }

  /** How many there are. */
  public int size() {
    return phrases.size();
  }

  private static List<String> words(String text) {
    return WORD.matcher(text)
        .results()
        .map(word -> Folding.foldCase(word.group()))
        .collect(Collectors.toCollection(ArrayList::new));
  }

  /**
   * The phrases that fit what was typed, the best first.
   *
   * @param typed if it does not end in white space, its last word may go on
   * @param most how many at most
   */
  public List<Found> find(String typed, int most) {
    List<String> typedWords = words(typed);
    if (typedWords.isEmpty()) {
      return List.of();
    }
    boolean open = !Character.isWhitespace(typed.codePointBefore(typed.length()));
    String wanted = String.join(" ", typedWords);
    Best best = new Best(typedWords.size());
    int from = Arrays.binarySearch(rests, wanted);
    for (int at = first(from, wanted); at < rests.length && rests[at].startsWith(wanted); at++) {
      if (open || isWhole(rests[at], wanted.length())) {
        best.add(at, words[at] == 0 ? Fit.BEGINS : Fit.INSIDE);
      }
    }
    if (best.found.size() < most && open) {
      withErrors(wanted, best);
    }
    return best.found.values().stream().sorted(Found.BEST_FIRST).limit(most).toList();
  }

  /** The first of the rests that are not before the wanted one. */
  private int first(int found, String wanted) {
    int at = found < 0 ? -1 - found : found;
    while (at > 0 && rests[at - 1].equals(wanted)) {
      at--;
    }
    return at;
  }

  private static boolean isWhole(String rest, int length) {
    return rest.length() == length || rest.charAt(length) == ' ';
  }

  /** The best fit of each phrase so far. */
  private final class Best {
    private final int typed;
    private final Map<Integer, Found> found = new HashMap<>();

    Best(int typed) {
      this.typed = typed;
    }

    void add(int at, Fit fit) {
      Found one = new Found(phrases.get(owners[at]), fit, words[at], typed);
      found.merge(owners[at], one, (a, b) -> a.fit.compareTo(b.fit) <= 0 ? a : b);
    }
  }

  /** The first character must be right, as everywhere. */
  private void withErrors(String wanted, Best best) {
    int edits = Edits.of(wanted);
    if (edits == 0) {
      return;
    }
    int[] typed = wanted.codePoints().toArray();
    String same = wanted.substring(0, wanted.offsetByCodePoints(0, 1));
    EditTable table = new EditTable(typed);
    int[] before = {};
    int at = first(Arrays.binarySearch(rests, same), same);
    while (at < rests.length && rests[at].startsWith(same)) {
      int[] points = rests[at].codePoints().limit((long) typed.length + edits).toArray();
      int shared = Arrays.mismatch(before, points);
      table.backTo(shared < 0 ? points.length : shared);
      before = points;
      boolean dead = table.depth() > 0 && table.least() > edits;
      while (table.depth() < points.length && !dead) {
        table.add(points);
        dead = table.least() > edits;
      }
      if (table.best() <= edits) {
        best.add(at++, Fit.ERRORS);
      } else if (dead) {
        // Nothing that begins so is near enough.
        String beginning = new String(points, 0, table.depth());
        do {
          at++;
        } while (at < rests.length && rests[at].startsWith(beginning));
      } else {
        at++;
      }
    }
  }
}
