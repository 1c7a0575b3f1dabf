package org.mnemex.engine.search;

import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/** The documents of an edition at one moment, wherever they are. */
public interface Searched {
  Schema schema();

  /** The same with helpers for searches that have to know all results. */
  Searched helpedBy(Helpers helpers);

  /** Numbers of shards whose documents are left out, as nobody can be asked for them now. */
  default Set<Integer> away() {
    return Set.of();
  }

  /** How many documents there are. */
  long documents();

  /**
   * The results of a search.
   *
   * @throws org.mnemex.engine.error.UnknownFieldException if it names a field that is not there
   * @throws org.mnemex.engine.error.QueryRefusedException if it asks a field for a use that it has
   *     not, or for too much
   * @throws org.mnemex.engine.error.SearchTimeoutException if it takes longer than it may
   */
  SearchResult search(SearchRequest request);

  /**
   * The best of some results: after so many were found, no more are looked for. What must know all
   * results, such as an order by a field, does.
   *
   * @param most how many results are enough, from 1
   */
  SearchResult some(SearchRequest request, long most);

  /**
   * Some results, no matter how well they fit.
   *
   * @param most how many results are enough, from 1
   */
  SearchResult any(SearchRequest request, long most);

  /**
   * The results of several searches, for which shards elsewhere are asked at once.
   *
   * @param budget how long all of them may take together
   */
  List<SearchResult> search(List<SearchRequest> requests, Budget budget);

  /**
   * How many results each of some searches has, up to a number.
   *
   * @param most how many are enough, from 1
   * @param budget how long all of them may take together
   */
  List<Long> counts(List<SearchRequest> requests, long most, Budget budget);

  /**
   * The best terms that a word being typed may become: without typing errors first, then those in
   * most documents.
   *
   * @param beginning analysed text
   * @param edits typing errors at most
   * @param prefix whether the term may be longer
   */
  List<Completions.Completion> completions(
      Field field, String beginning, int edits, boolean prefix, int most, Budget budget);

  /**
   * In how many documents each of some terms stands.
   *
   * @param terms by the name of their field
   * @return the numbers by term, by the name of the field
   */
  Map<String, Map<String, Long>> having(
      Map<String, ? extends Collection<String>> terms, Budget budget);

  /**
   * The values of an exact field that fit what is typed, the best first, whatever documents have
   * them.
   *
   * @param field one whose values are terms
   */
  List<Phrases.Found> values(Field field, String typed, int most);

  /**
   * How a document's score is computed, or why it is not a result; null if there is no such
   * document.
   */
  @Nullable Explanation explain(SearchRequest request, String key);
}
