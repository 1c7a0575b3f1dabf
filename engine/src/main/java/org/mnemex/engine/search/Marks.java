package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Predicate;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.text.AnalysedToken;

/** What a plan asks of one text field, to be marked where it stands. */
public final class Marks {
  private final Set<String> terms = new HashSet<>();
  private final List<Predicate<String>> rules = new ArrayList<>();
  private final List<Highlighter.Phrase> phrases = new ArrayList<>();

  private Marks() {}

  /** A highlighter for what a query asks of a text field. */
  public static Highlighter of(Query query, Field field, Schema schema) {
    // What is marked does not depend on how rare words are, so no dictionary is looked at.
    Snapshot empty = new Snapshot(schema, List.of(), Checkpoint.NONE, 0);
    EditionStatistics statistics = new EditionStatistics(empty, Budget.none());
    return of(new Planner(schema, statistics).plan(query), field);
  }

  static Highlighter of(Plan plan, Field field) {
    Marks marks = new Marks();
    marks.collect(plan, field);
    return new Highlighter(texts(field), marks.terms, marks.rules, marks.phrases);
  }

  /** An exact value is one token, and marked as a whole. */
  private static Highlighter.Texts texts(Field field) {
    if (field.analyser() != null) {
      return Highlighter.Texts.of(field.analyser());
    }
    return new Highlighter.Texts() {
      @Override
      public String readable(String value) {
        return value;
      }

      @Override
      public List<AnalysedToken> tokens(String value, Budget budget) {
        return List.of(new AnalysedToken(field.term(value), 0, value.length(), 0, 1));
      }
    };
  }

  private void collect(Plan plan, Field field) {
    switch (plan) {
      case Plan.Words words -> {
        for (Plan.Part part : words.parts()) {
          if (part.field().name().equals(field.name())) {
            collect(part.source());
          }
        }
      }
      case Plan.All all -> {
        all.required().forEach(one -> collect(one, field));
        all.optional().forEach(one -> collect(one, field));
      }
      case Plan.Any any -> any.clauses().forEach(one -> collect(one, field));
      case Plan.Some some -> some.clauses().forEach(one -> collect(one, field));
      case Plan.Scaled scaled -> collect(scaled.plan(), field);
      case Plan.Filter filter -> {
        // Filters and exclusions have nothing to mark.
      }
    }
  }

  private void collect(Plan.Source source) {
    switch (source) {
      case Plan.Term term -> terms.add(text(term.term()));
      case Plan.Terms all -> rules.add(all.rule()::accepts);
      case Plan.Positions positions -> {
        if (isPhrase(positions)) {
          List<Predicate<String>> slots = new ArrayList<>();
          positions
              .units()
              .forEach(unit -> slots.add(fits(unit.ways().getFirst().slots().getFirst())));
          phrases.add(new Highlighter.Phrase(slots, positions.match().offsets()));
        } else {
          positions.units().forEach(unit -> unit.ways().forEach(this::collect));
        }
      }
    }
  }

  /** Words that may stand apart are marked wherever they stand. */
  private static boolean isPhrase(Plan.Positions positions) {
    return positions.match().distance() == 0 && !positions.match().ordered();
  }

  private void collect(Plan.Way way) {
    if (way.slots().size() == 1) {
      rules.add(fits(way.slots().getFirst()));
    } else {
      phrases.add(
          new Highlighter.Phrase(way.slots().stream().map(Marks::fits).toList(), way.offsets()));
    }
  }

  private static Predicate<String> fits(Plan.Slot slot) {
    Set<String> terms = new HashSet<>();
    slot.terms().forEach(term -> terms.add(text(term)));
    TermRule beginning = slot.beginning();
    return term -> terms.contains(term) || beginning != null && beginning.accepts(term);
  }

  private static String text(byte[] term) {
    return new String(term, StandardCharsets.UTF_8);
  }
}
