package org.mnemex.engine.text;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Synonyms of words and phrases.
 *
 * <p>A rule is {@code slug, mollusc} (each stands for all) or {@code usa, us => united states}
 * (what is left of the arrow becomes what is right of it). Phrases are analysed by the chain before
 * this filter. The longest phrase that fits counts.
 *
 * <p>For queries the outcome is a graph: every alternative has positions of its own between the
 * common begin and end, so that a phrase search goes through one alternative or another and never
 * through a mixture; what comes after moves on. In an index, which keeps no spans, all alternatives
 * begin at the same position and what comes after stays; a phrase that goes on after a synonym of
 * another length is then not found. Synonyms therefore belong on the query side, where they can be
 * changed without a rebuild as well.
 */
final class SynonymFilter implements TokenFilter {
  /** A query with such a word looks for as many words instead of one. */
  private static final int MAX_PHRASES = 500;

  private final List<String> rules;
  private final boolean graph;
  private final @Nullable Analyser before;
  private final Node root;

  SynonymFilter(List<String> rules) {
    this(rules, null, false);
  }

  private SynonymFilter(List<String> rules, @Nullable Analyser before, boolean graph) {
    this.rules = List.copyOf(rules);
    this.before = before;
    this.graph = graph;
    this.root = new Node();
    if (before != null) {
      rules.forEach(rule -> add(rule, before));
    }
  }

  @Override
  public String name() {
    return "synonyms: " + String.join("; ", rules);
  }

  @Override
  public TokenFilter after(Analyser chain) {
    return new SynonymFilter(rules, chain, graph);
  }

  @Override
  public TokenFilter forQueries() {
    return new SynonymFilter(rules, before, true);
  }

  @Override
  public int joined(List<String> words) {
    Node node = root;
    int longest = 0;
    int dropped = 0;
    for (int i = 0; i < words.size(); i++) {
      List<Step> steps = before == null ? List.of() : steps(words.get(i), before);
      for (Step step : steps) {
        node = node.next.get(node == root ? step : new Step(step.text, step.gap + dropped));
        dropped = 0;
        if (node == null) {
          return longest;
        }
      }
      if (steps.isEmpty()) {
        dropped++;
      } else if (node.ends && i > 0) {
        longest = i + 1;
      }
    }
    return longest;
  }

  /**
   * A word of a phrase.
   *
   * @param text the word as the chain writes it
   * @param gap how many positions are empty before it, where the chain dropped words
   */
  private record Step(String text, int gap) {}

  private static final class Node {
    final Map<Step, Node> next = new HashMap<>();

    /** What the rules say that end here; all phrases of a rule share one list. */
    final List<List<List<Step>>> means = new ArrayList<>();

    boolean keeps;
    boolean ends;
  }

  private void add(String rule, Analyser chain) {
    int arrow = rule.indexOf("=>");
    List<List<Step>> left = phrases(arrow < 0 ? rule : rule.substring(0, arrow), chain);
    List<List<Step>> right = arrow < 0 ? left : phrases(rule.substring(arrow + 2), chain);
    if (left.size() > MAX_PHRASES || right.size() > MAX_PHRASES) {
      throw new ComponentException(
          "synonyms",
          "'synonyms': a rule has at most %,d phrases, not %,d"
              .formatted(MAX_PHRASES, Math.max(left.size(), right.size())),
          null);
    }
    Set<List<Step>> own = new HashSet<>(right);
    for (List<Step> phrase : left) {
      Node node = root;
      for (Step step : phrase) {
        node = node.next.computeIfAbsent(step, w -> new Node());
      }
      node.ends = true;
      node.keeps |= own.contains(phrase);
      node.means.add(right);
    }
  }

  private static List<List<Step>> phrases(String list, Analyser chain) {
    List<List<Step>> phrases = new ArrayList<>();
    for (String phrase : list.split(",")) {
      List<Step> steps = steps(phrase.strip(), chain);
      if (!steps.isEmpty()) {
        phrases.add(steps);
      }
    }
    return phrases;
  }

  private static List<Step> steps(String phrase, Analyser chain) {
    List<Step> steps = new ArrayList<>();
    int end = 0;
    for (AnalysedToken token : chain.tokens(phrase)) {
      // The first of alternatives at a position stands for all.
      if (token.position() >= end) {
        steps.add(new Step(token.text(), steps.isEmpty() ? 0 : token.position() - end));
        end = token.position() + token.span();
      }
    }
    return steps;
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Run(next);
  }

  private final class Run implements TokenSink {
    private final TokenSink next;
    private final BufferedTokens waiting = new BufferedTokens();
    private final Token out = new Token();
    private int shift;

    Run(TokenSink next) {
      this.next = next;
    }

    @Override
    public void accept(Token token) {
      waiting.add(token);
      while (waiting.size() > 0 && step(false)) {
        // One match or one token at a time.
      }
    }

    @Override
    public void end() {
      while (waiting.size() > 0) {
        step(true);
      }
      shift = 0;
      next.end();
    }

    /** Passes on what the first waiting tokens become; false if more has to be known first. */
    private boolean step(boolean last) {
      Node node = root;
      Node best = null;
      int matched = 0;
      int at = 0;
      while (at < waiting.size()) {
        int gap = gap(at);
        Node following = gap < 0 ? null : node.next.get(new Step(waiting.get(at).text(), gap));
        if (following == null) {
          break;
        }
        node = following;
        at++;
        if (node.ends) {
          best = node;
          matched = at;
        }
      }
      if (at == waiting.size() && !node.next.isEmpty() && !last) {
        return false;
      }
      if (best == null) {
        emit(waiting.get(0), waiting.get(0).position() + shift, waiting.get(0).span());
        waiting.drop(1);
      } else {
        replace(best, matched);
        waiting.drop(matched);
      }
      return true;
    }

    /** The empty positions before a waiting token; below 0 if it stands beside the one before. */
    private int gap(int at) {
      return at == 0
          ? 0
          : waiting.get(at).position()
              - waiting.get(at - 1).position()
              - waiting.get(at - 1).span();
    }

    /**
     * A word of a way.
     *
     * @param offset where it stands behind the first one
     */
    private record Word(String text, @Nullable Token own, int offset) {}

    private record Placed(Word word, int position, int span) {}

    private static List<Word> way(List<Step> meaning) {
      List<Word> way = new ArrayList<>();
      int offset = 0;
      for (Step step : meaning) {
        offset += way.isEmpty() ? 0 : step.gap + 1;
        way.add(new Word(step.text, null, offset));
      }
      return way;
    }

    private void replace(Node node, int matched) {
      Token first = waiting.get(0);
      Token last = waiting.get(matched - 1);
      int covered = last.position() + last.span() - first.position();
      int start = first.position() + shift;
      List<List<Word>> ways = new ArrayList<>();
      Set<List<Step>> means = new LinkedHashSet<>();
      node.means.forEach(means::addAll);
      if (node.keeps) {
        List<Step> phrase = new ArrayList<>();
        for (int i = 0; i < matched; i++) {
          phrase.add(new Step(waiting.get(i).text(), gap(i)));
        }
        means.remove(phrase);
      }
      if (node.keeps || means.isEmpty()) {
        List<Word> own = new ArrayList<>();
        for (int i = 0; i < matched; i++) {
          int offset = i == 0 ? 0 : own.getLast().offset + gap(i) + 1;
          own.add(new Word("", waiting.get(i), offset));
        }
        ways.add(own);
      }
      means.forEach(meaning -> ways.add(way(meaning)));
      int length = covered;
      if (graph) {
        length = 1;
        for (List<Word> way : ways) {
          length += way.getLast().offset;
        }
      }
      List<Placed> placed = new ArrayList<>();
      int inner = start + 1;
      for (List<Word> way : ways) {
        for (int i = 0; i < way.size(); i++) {
          Word word = way.get(i);
          int position = i == 0 ? start : graph ? inner + word.offset - 1 : start + word.offset;
          int end =
              i == way.size() - 1 ? start + length : graph ? inner + word.offset : position + 1;
          placed.add(new Placed(word, position, Math.max(1, end - position)));
        }
        inner += way.getLast().offset;
      }
      placed.sort(Comparator.comparingInt(Placed::position));
      for (Placed one : placed) {
        if (one.word.own != null) {
          emit(one.word.own, one.position, one.span);
        } else {
          out.text(one.word.text);
          out.place(first.start(), last.end(), one.position);
          out.span(one.span);
          next.accept(out);
        }
      }
      if (graph) {
        shift += length - covered;
      }
    }

    private void emit(Token token, int position, int span) {
      out.copyOf(token);
      out.place(token.start(), token.end(), position);
      out.span(span);
      next.accept(out);
    }
  }
}
