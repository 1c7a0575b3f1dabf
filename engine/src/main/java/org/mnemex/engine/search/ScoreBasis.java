package org.mnemex.engine.search;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/**
 * What a search scores with: as its cursor says, or as the edition and the clock say now.
 *
 * @param basis the same, for the cursors of the results
 */
record ScoreBasis(Plan plan, List<Signal> signals, SearchRequest.Basis basis) {

  /**
   * @param given what to score with; null: what the edition says now
   * @throws QueryRefusedException if it is not of this query
   */
  static ScoreBasis of(
      SearchRequest request,
      SearchRequest.@Nullable Basis given,
      Planner planner,
      Statistics statistics) {
    Plan plan =
        given == null
            ? planner.plan(request.query())
            : planner.plan(request.query(), given.rarities());
    TreeMap<String, Field> texts = new TreeMap<>();
    collect(plan, texts);
    if (given != null) {
      if (given.averageLengths().size() != texts.size()) {
        throw Planner.anotherQuery();
      }
      Iterator<Double> lengths = given.averageLengths().iterator();
      texts.keySet().forEach(name -> statistics.averageLength(name, lengths.next()));
    }
    List<Signal> signals =
        given == null || given.now() == null
            ? request.signals()
            : asOf(given.now(), request.signals());
    List<Double> lengths = texts.values().stream().map(statistics::averageLength).toList();
    return new ScoreBasis(
        plan, signals, new SearchRequest.Basis(planner.rarities(), lengths, now(signals)));
  }

  private static void collect(Plan plan, TreeMap<String, Field> texts) {
    switch (plan) {
      case Plan.Words words -> {
        for (Plan.Part part : words.parts()) {
          if (part.field().type() == FieldType.TEXT) {
            texts.put(part.field().name(), part.field());
          }
        }
      }
      case Plan.All all -> {
        all.required().forEach(one -> collect(one, texts));
        all.optional().forEach(one -> collect(one, texts));
      }
      case Plan.Any any -> any.clauses().forEach(one -> collect(one, texts));
      case Plan.Some some -> some.clauses().forEach(one -> collect(one, texts));
      case Plan.Scaled scaled -> collect(scaled.plan(), texts);
      case Plan.Filter filter -> {
        // It scores nothing.
      }
    }
  }

  private static List<Signal> asOf(Instant now, List<Signal> signals) {
    List<Signal> all = new ArrayList<>();
    for (Signal signal : signals) {
      all.add(
          signal instanceof Signal.Age age
              ? new Signal.Age(age.field(), age.weight(), age.halfLifeDays(), now, age.curve())
              : signal);
    }
    return all;
  }

  private static @Nullable Instant now(List<Signal> signals) {
    return signals.stream()
        .filter(Signal.Age.class::isInstance)
        .map(signal -> ((Signal.Age) signal).now())
        .findFirst()
        .orElse(null);
  }
}
