package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.shard.ShardResult;
import org.mnemex.engine.text.Folding;

/**
 * Collects the best results of each value of a field. A group ranks by its best result, so all
 * results are examined and the best few of each group kept.
 */
final class Groups {
  /** About what a group takes in memory, without its results, in bytes. */
  private static final int GROUP_BYTES = 160;

  private static final int ENTRY_BYTES = 64;

  private final SearchRequest.Group request;
  private final Field field;
  private final Order order;
  private final Budget budget;
  private final List<Group> all = new ArrayList<>();

  private final Map<Object, Group> byValue = new HashMap<>();

  /** Documents of one value. */
  static final class Group {
    /** What makes its documents the same; null for a document without a value. */
    private final @Nullable Object same;

    private final List<Order.Entry> best = new ArrayList<>();
    private long total;

    private Group(@Nullable Object same) {
      this.same = same;
    }

    /** In order, the best one first. */
    List<Order.Entry> best() {
      return best;
    }

    long total() {
      return total;
    }
  }

  private Groups(SearchRequest.Group request, Field field, Order order, Budget budget) {
    this.request = request;
    this.field = field;
    this.order = order;
    this.budget = budget;
  }

  /**
   * Groups of no results yet.
   *
   * @throws QueryRefusedException if the field has no values to group by
   */
  static Groups of(SearchRequest.Group request, Schema schema, Order order, Budget budget) {
    Field field = schema.field(request.field());
    if (!field.hasColumn()
        || field.isChild()
        || !field.type().isOrdinal() && !field.type().isNumeric()) {
      throw new QueryRefusedException(
          "results cannot be grouped by field '%s' (%s); give an exact, number or date field the use 'filter'"
              .formatted(field.name(), field.type().word()));
    }
    return new Groups(request, field, order, budget);
  }

  /** Takes the results of one segment. */
  final class InSegment {
    private final SegmentReader segment;
    private final Column column;
    private final Order.InSegment inSegment;
    private final Map<Long, Group> known = new HashMap<>();

    InSegment(SegmentReader segment) {
      this.segment = segment;
      this.column = segment.column(field);
      this.inSegment = order.new InSegment(segment);
    }

    void offer(int doc, double score) {
      Group group =
          column.has(doc)
              ? known.computeIfAbsent(column.value(column.first(doc)), this::group)
              : made(null);
      group.total++;
      List<Order.Entry> best = group.best;
      Order.Entry entry = inSegment.entry(doc, score);
      int at = best.size();
      while (at > 0 && compare(entry, best.get(at - 1)) < 0) {
        at--;
      }
      if (at == request.best()) {
        return;
      }
      if (best.size() == request.best()) {
        best.removeLast();
      } else {
        budget.take(ENTRY_BYTES);
      }
      best.add(at, entry);
    }

    private int compare(Order.Entry a, Order.Entry b) {
      return a.segment() == b.segment() ? inSegment.compare(a, b) : order.compare(a, b);
    }

    private Group group(long number) {
      Object value = Groups.this.value(segment, number);
      Object same = field.fold() ? Folding.foldCase((String) value) : value;
      return byValue.computeIfAbsent(same, Groups.this::made);
    }
  }

  /** The value of a group, as its best result spells it; null if that has none. */
  @Nullable Object value(Group group) {
    Order.Entry best = group.best.getFirst();
    Column column = best.segment().column(field);
    return column.has(best.doc())
        ? value(best.segment(), column.value(column.first(best.doc())))
        : null;
  }

  private Object value(SegmentReader segment, long number) {
    return field.type().isOrdinal()
        ? new String(segment.values(field).get((int) number), StandardCharsets.UTF_8)
        : field.fromNumber(number);
  }

  private Group made(@Nullable Object same) {
    budget.take(GROUP_BYTES);
    Group group = new Group(same);
    all.add(group);
    return group;
  }

  /**
   * Adds the groups of other segments.
   *
   * @param other of the same request, and not to be used any more
   */
  void add(Groups other) {
    for (Group theirs : other.all) {
      Group own = theirs.same == null ? null : byValue.putIfAbsent(theirs.same, theirs);
      if (own == null) {
        all.add(theirs);
      } else {
        own.total += theirs.total;
        own.best.addAll(theirs.best);
        own.best.sort(order::compare);
        own.best.subList(Math.min(own.best.size(), request.best()), own.best.size()).clear();
      }
    }
  }

  /** All groups, to be added to those of other shards. */
  List<ShardResult.Group> told() {
    return all.stream()
        .map(
            group ->
                new ShardResult.Group(
                    group.same,
                    value(group),
                    group.total,
                    group.best.stream().map(order::place).toList()))
        .toList();
  }

  /** How many groups there are. */
  int size() {
    return all.size();
  }

  /** The first groups after a place in the order. */
  List<Group> first(SearchRequest.@Nullable Cursor after, int count) {
    return all.stream()
        .filter(group -> after == null || order.isBehind(group.best.getFirst(), after))
        .sorted((a, b) -> order.compare(a.best.getFirst(), b.best.getFirst()))
        .limit(count)
        .toList();
  }
}
