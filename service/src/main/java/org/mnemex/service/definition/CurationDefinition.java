package org.mnemex.service.definition;

import com.google.re2j.Pattern;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;

/**
 * What people choose to show first, hide or say for certain queries of an endpoint.
 *
 * @param name name of the curation
 * @param endpoint the endpoint whose searches it curates
 * @param rules its rules, in order
 */
public record CurationDefinition(String name, String endpoint, List<Rule> rules) {
  private static final Analyser WORDS = Objects.requireNonNull(Components.analysers().get("words"));

  /**
   * A rule.
   *
   * @param name its name
   * @param when which queries it is for
   * @param from the first day; null for no limit
   * @param to the last day; null for no limit
   * @param first keys of records to show first, in this order
   * @param hide keys of records to hide
   * @param lift records to rank higher or lower, or null
   * @param replace words of the query to replace, in lower case
   * @param add words to add to the query
   * @param message what to say beside the results, or null
   */
  public record Rule(
      String name,
      When when,
      @Nullable LocalDate from,
      @Nullable LocalDate to,
      List<String> first,
      List<String> hide,
      EndpointDefinition.@Nullable Lift lift,
      Map<String, String> replace,
      List<String> add,
      @Nullable Message message) {

    /**
     * Whether it is for a query.
     *
     * @param words the words of the query, see {@link CurationDefinition#words}
     * @param today in UTC
     */
    public boolean isFor(List<String> words, LocalDate today) {
      return (from == null || !today.isBefore(from))
          && (to == null || !today.isAfter(to))
          && when.holds(words);
    }
  }

  /** Which queries a rule is for. Case, accents and punctuation make no difference. */
  public sealed interface When {
    /** Whether it holds for the words of a query. */
    boolean holds(List<String> words);
  }

  /**
   * Queries with exactly the words of any of some texts.
   *
   * @param texts the words of each text
   */
  record Words(List<List<String>> texts) implements When {
    @Override
    public boolean holds(List<String> words) {
      return texts.contains(words);
    }
  }

  /**
   * Queries that contain the words of any of some texts next to each other.
   *
   * @param texts the words of each text
   */
  record Contains(List<List<String>> texts) implements When {
    @Override
    public boolean holds(List<String> words) {
      return texts.stream().anyMatch(text -> Collections.indexOfSubList(words, text) >= 0);
    }
  }

  /**
   * Queries with a match of an expression in their words.
   *
   * @param pattern the expression
   */
  record Matches(Pattern pattern) implements When {
    @Override
    public boolean holds(List<String> words) {
      return pattern.matcher(String.join(" ", words)).find();
    }
  }

  /**
   * What is said beside the results.
   *
   * @param text the text
   * @param link where it leads, or null
   */
  public record Message(String text, @Nullable String link) {}

  /** The words of a text in lower case and without accents. */
  public static List<String> words(String text) {
    List<String> words = new ArrayList<>();
    for (AnalysedToken token : WORDS.tokens(text)) {
      words.add(token.text());
    }
    return words;
  }
}
