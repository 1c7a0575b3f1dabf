package org.mnemex.engine.search;

import java.util.List;
import java.util.Set;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;

/** What a condition about the child rows of a group may ask for. */
final class GroupConditions {
  private GroupConditions() {}

  /**
   * Checks that a condition asks only for fields of a group.
   *
   * @throws QueryRefusedException if it asks for anything else
   */
  static void check(Field group, Query condition) {
    switch (condition) {
      case Query.Everything e -> {}
      case Query.Nothing n -> {}
      case Query.AllOf all -> all.clauses().forEach(clause -> check(group, clause));
      case Query.AnyOf any -> any.clauses().forEach(clause -> check(group, clause));
      case Query.Not not -> check(group, not.clause());
      case Query.Some some -> some.clauses().forEach(clause -> check(group, clause));
      case Query.Holds holds -> check(group, holds.query());
      case Query.Weighted weighted -> check(group, weighted.query());
      case Query.Prefer prefer -> {
        check(group, prefer.query());
        check(group, prefer.preferred());
      }
      case Query.Unless unless -> check(group, unless.clause());
      case Query.OneOf q -> checkChild(group, q.field());
      case Query.StartsWith q -> checkChild(group, q.field());
      case Query.Range q -> checkChild(group, q.field());
      case Query.Exists q -> checkChild(group, q.field());
      case Query.Word q -> checkChildren(group, q.fields().keySet());
      case Query.Phrase q -> checkChildren(group, q.fields().keySet());
      case Query.Near q -> checkChildren(group, q.fields().keySet());
      case Query.Wildcard q -> checkChildren(group, q.fields().keySet());
      case Query.Pattern q -> checkChildren(group, q.fields().keySet());
      case Query.Typo q -> checkChildren(group, q.fields().keySet());
      case Query.Term q -> checkChild(group, q.field());
      default ->
          throw new QueryRefusedException(
              "a condition about '" + group.name() + "' compares the group's own fields only");
    }
  }

  private static void checkChildren(Field group, Set<String> names) {
    names.forEach(name -> checkChild(group, name));
  }

  private static void checkChild(Field group, String name) {
    List<String> names = group.children().stream().map(Field::name).toList();
    if (!names.contains(name)) {
      throw new QueryRefusedException(
          "field '%s' does not belong to group '%s' (which has %s)"
              .formatted(name, group.name(), String.join(", ", names)));
    }
  }
}
