package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.definition.ScorecardDefinition.GradedQuery;
import org.mnemex.sync.score.Score;
import org.snakeyaml.engine.v2.nodes.Node;

/** Reads a scorecard definition. */
final class ScorecardReader {
  private static final int TOP = 10;
  private static final int MAX_TOP = 100;
  private static final int MAX_QUERIES = 1000;

  private final YamlMap map;
  private final String name;

  ScorecardReader(YamlMap map, String name) {
    this.map = map;
    this.name = name;
  }

  ScorecardDefinition read() {
    List<GradedQuery> queries = new ArrayList<>();
    Set<String> words = new HashSet<>();
    for (Node item : map.items("queries")) {
      YamlMap one = map.mapOf(item, "queries");
      GradedQuery query = new GradedQuery(one.text("words"), grades(one));
      one.finish();
      if (!words.add(query.words())) {
        throw one.problem("words", "'" + query.words() + "' is graded twice", null);
      }
      queries.add(query);
    }
    if (queries.isEmpty() || queries.size() > MAX_QUERIES) {
      throw map.problem("queries", "a scorecard has 1 to " + MAX_QUERIES + " queries", null);
    }
    Double least = share("least");
    return new ScorecardDefinition(
        name,
        map.text("endpoint"),
        map.integerOr("top", TOP, 1, MAX_TOP),
        least == null ? 0 : least,
        share("most_fall"),
        queries);
  }

  private static Map<String, Integer> grades(YamlMap query) {
    Map<String, Integer> grades = new LinkedHashMap<>();
    YamlMap all = query.map("grades");
    for (String key : all.allKeys()) {
      grades.put(key, all.integerOr(key, 0, 0, Score.HIGHEST_GRADE));
    }
    if (grades.values().stream().noneMatch(grade -> grade > 0)) {
      throw query.problem("grades", "no record has a grade above 0, so nothing can be found", null);
    }
    return grades;
  }

  private @Nullable Double share(String key) {
    String text = map.textOr(key, null);
    if (text == null) {
      return null;
    }
    try {
      double share = Double.parseDouble(text);
      if (share >= 0 && share <= 1) {
        return share;
      }
    } catch (NumberFormatException e) {
      // Said below.
    }
    throw map.problem(key, "'" + text + "' is not a number from 0 to 1", null);
  }
}
