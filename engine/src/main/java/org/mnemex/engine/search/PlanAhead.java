package org.mnemex.engine.search;

import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.Signal;

/**
 * Plans everything that a search plans when it comes to it, in the first segment that has to be
 * filtered. So statistics are asked for all that is needed, even if there is no segment.
 */
final class PlanAhead {
  private final Statistics statistics;

  private PlanAhead(Statistics statistics) {
    this.statistics = statistics;
  }

  static void of(PreparedSearch search) {
    PlanAhead ahead = new PlanAhead(search.statistics());
    ahead.plan(search.plan(), search.planner());
    ahead.condition(search.request().filter(), search.planner());
    search.choices().forEach(choice -> ahead.condition(choice, search.planner()));
    for (Signal signal : search.signals()) {
      if (signal instanceof Signal.Lift lift) {
        ahead.condition(lift.condition(), search.planner());
      }
    }
  }

  /** As {@link SegmentFilter#bits(Query)} does. */
  private void condition(Query query, Planner planner) {
    switch (query) {
      case Query.Everything everything -> {}
      case Query.Nothing nothing -> {}
      case Query.OneOf oneOf -> {}
      case Query.StartsWith starts -> {}
      case Query.Range range -> {}
      case Query.Exists exists -> {}
      case Query.Keys keys -> {}
      case Query.Within within -> {}
      case Query.Not not -> condition(not.clause(), planner);
      case Query.Holds holds -> plan(planner.plan(holds.query()), planner);
      case Query.Unless unless -> {
        Plan excluded = planner.planOrNull(unless.clause());
        if (excluded != null) {
          plan(excluded, planner);
        }
      }
      case Query.Group group ->
          condition(group.condition(), planner.within(planner.schema().field(group.field())));
      default -> plan(planner.plan(query), planner);
    }
  }

  private void plan(Plan plan, Planner planner) {
    switch (plan) {
      case Plan.Words words -> words.parts().forEach(this::part);
      case Plan.All all -> {
        all.required().forEach(one -> plan(one, planner));
        all.optional().forEach(one -> plan(one, planner));
      }
      case Plan.Any any -> any.clauses().forEach(one -> plan(one, planner));
      case Plan.Some some -> some.clauses().forEach(one -> plan(one, planner));
      case Plan.Scaled scaled -> plan(scaled.plan(), planner);
      case Plan.Filter filter -> condition(filter.query(), planner);
    }
  }

  private void part(Plan.Part part) {
    switch (part.source()) {
      case Plan.Term term -> {}
      case Plan.Terms terms -> choose(part, terms.rule());
      case Plan.Positions positions ->
          positions.units().stream()
              .flatMap(unit -> unit.ways().stream())
              .flatMap(way -> way.slots().stream())
              .forEach(
                  slot -> {
                    if (slot.beginning() != null) {
                      choose(part, slot.beginning());
                    }
                  });
    }
  }

  private void choose(Plan.Part part, TermRule rule) {
    if (rule instanceof TermRule.Best best) {
      statistics.choose(part.field(), best);
    }
  }
}
