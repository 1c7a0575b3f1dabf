package org.mnemex.service.insight;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

/** What may be asked of the recorded searches. */
enum Report {
  /** The words of most searches. */
  FREQUENT("1", "searches DESC"),
  /** Words that found nothing. */
  WITHOUT_RESULTS("without_results > 0", "without_results DESC"),
  /** Words that found 1 or 2 results. */
  FEW_RESULTS("few_results > 0", "few_results DESC"),
  /** Words whose slowest search took longest. */
  SLOW("slowest > 0", "slowest DESC"),
  /** Words that are searched for more often than in the time before. */
  RISING("searches > before", "searches - before DESC"),
  /** Words that found something of which nothing was opened. */
  NEVER_OPENED("opened = 0 AND searches > without_results", "searches - without_results DESC"),
  /** Words of which results beyond the fifth were opened, on average. */
  FAR_DOWN("mean_position > 5", "mean_position * opened DESC"),
  /** Words after which people looked at later pages. */
  LATER_PAGES("later_pages > 0", "later_pages DESC"),
  /** Words for which some had to be left out, or others were suggested. */
  MENDED("relaxed + corrected > 0", "relaxed + corrected DESC"),
  /** Words for which a rule of a curation applied. */
  CURATED("curated > 0", "curated DESC");

  private final String having;
  private final String order;

  Report(String having, String order) {
    this.having = having;
    this.order = order;
  }

  String having() {
    return having;
  }

  String order() {
    return order;
  }

  /** Its name, such as {@code few-results}. */
  String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }

  /**
   * The report of a name.
   *
   * @throws ProblemException 400 if there is none
   */
  static Report of(String word) {
    List<String> words = Arrays.stream(values()).map(Report::word).toList();
    int at = words.indexOf(word);
    if (at < 0) {
      throw new ProblemException(
          ProblemType.BAD_INSIGHTS,
          "there is no report '%s'; there are %s".formatted(word, String.join(", ", words)),
          NearestName.to(word, words));
    }
    return values()[at];
  }
}
