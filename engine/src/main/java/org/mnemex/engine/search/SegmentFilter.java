package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Set;
import java.util.function.LongPredicate;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.NumberRange;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.text.Folding;

/**
 * The documents of a segment that a query matches, as a set; or, inside a group, the child rows.
 * Sets that are returned may be shared: they are not to be changed.
 */
final class SegmentFilter {
  /**
   * The sets of smaller segments are found sooner than remembered; there are many such segments.
   */
  private static final int WORTH_REMEMBERING = 1024;

  private final SegmentReader segment;
  private final Schema schema;
  private final Planner planner;
  private final Statistics statistics;
  private final Budget budget;
  private final @Nullable FilterCache cache;
  private final int rows;
  private final boolean inGroup;
  private final IdentityHashMap<Plan.Part, Sums> sums = new IdentityHashMap<>();

  SegmentFilter(
      SegmentReader segment,
      Planner planner,
      Statistics statistics,
      Budget budget,
      @Nullable FilterCache cache) {
    this(segment, planner, statistics, budget, cache, segment.documents(), false);
  }

  private SegmentFilter(
      SegmentReader segment,
      Planner planner,
      Statistics statistics,
      Budget budget,
      @Nullable FilterCache cache,
      int rows,
      boolean inGroup) {
    this.segment = segment;
    this.schema = planner.schema();
    this.planner = planner;
    this.statistics = statistics;
    this.budget = budget;
    this.cache = cache;
    this.rows = rows;
    this.inGroup = inGroup;
  }

  SegmentReader segment() {
    return segment;
  }

  /** How many documents there are, or child rows. */
  int rows() {
    return rows;
  }

  /** What a part of a plan was added up to, so that counting and scoring need it once. */
  Sums sums(Plan.Part part, Supplier<Sums> adding) {
    Sums known = sums.get(part);
    if (known == null) {
      known = adding.get();
      sums.put(part, known);
    }
    return known;
  }

  SegmentMatchers matchers() {
    return new SegmentMatchers(segment, statistics, budget, this);
  }

  /** As {@link #bits}, remembered if it comes again; the clauses of an all-of one by one. */
  DocBits recurring(Query query) {
    if (cache == null
        || rows < WORTH_REMEMBERING
        || query instanceof Query.Everything
        || query instanceof Query.Nothing) {
      return bits(query);
    }
    if (query instanceof Query.AllOf all
        && !all.clauses().isEmpty()
        && all.clauses().stream().noneMatch(planner::mayBeMissing)) {
      DocBits both = null;
      for (Query clause : all.clauses()) {
        DocBits bits = recurring(clause);
        if (both == null) {
          both = bits.copy();
        } else {
          both.and(bits);
        }
      }
      return both == null ? DocBits.all(rows) : both;
    }
    DocBits known = cache.get(segment, query, schema);
    if (known == null) {
      known = bits(query);
      if (!budget.isOver()) {
        cache.offer(segment, query, schema, known);
      }
    }
    return known;
  }

  /** Goes to the documents that match, deleted ones included. */
  Matcher matcher(Query query) {
    return matchers().matcher(planner.plan(query));
  }

  /** The documents that match, deleted ones included. */
  DocBits bits(Query query) {
    budget.take(rows / 8);
    return switch (query) {
      case Query.Everything everything -> DocBits.all(rows);
      case Query.Nothing nothing -> new DocBits(rows);
      case Query.Not not -> {
        DocBits bits = DocBits.all(rows);
        bits.andNot(bits(not.clause()));
        yield bits;
      }
      case Query.Holds holds -> bits(planner.plan(holds.query()));
      case Query.Unless unless -> {
        DocBits bits = DocBits.all(rows);
        Plan excluded = planner.planOrNull(unless.clause());
        if (excluded != null) {
          bits.andNot(bits(excluded));
        }
        yield bits;
      }
      case Query.OneOf oneOf -> oneOf(oneOf);
      case Query.StartsWith starts -> startsWith(starts);
      case Query.Range range -> range(range);
      case Query.Exists exists -> exists(exists);
      case Query.Keys keys -> keys(keys);
      case Query.Within within -> within(within);
      case Query.Group group -> group(group);
      case Query.AllOf all -> bits(planner.plan(all));
      case Query.AnyOf any -> bits(planner.plan(any));
      case Query.Some some -> bits(planner.plan(some));
      case Query.Prefer prefer -> bits(planner.plan(prefer));
      case Query.Weighted weighted -> bits(planner.plan(weighted));
      case Query.Word word -> bits(planner.plan(word));
      case Query.Term term -> bits(planner.plan(term));
      case Query.Phrase phrase -> bits(planner.plan(phrase));
      case Query.Near near -> bits(planner.plan(near));
      case Query.Wildcard wildcard -> bits(planner.plan(wildcard));
      case Query.Typo typo -> bits(planner.plan(typo));
      case Query.Pattern pattern -> bits(planner.plan(pattern));
    };
  }

  /** The documents that a plan matches: the same that its matcher walks through. */
  DocBits bits(Plan plan) {
    return switch (plan) {
      case Plan.Filter filter -> bits(filter.query());
      // What is optional only scores.
      case Plan.All all -> collect(new Plan.All(all.required(), List.of()));
      default -> collect(plan);
    };
  }

  private DocBits collect(Plan plan) {
    DocBits bits = new DocBits(rows);
    matchers().matcher(plan).addTo(bits, budget);
    return bits;
  }

  private DocBits oneOf(Query.OneOf query) {
    Field field = filterable(query.field());
    DocBits bits = new DocBits(rows);
    if (!field.type().isOrdinal()) {
      long[] wanted = NumberRange.exact(field, query.values());
      if (wanted.length > 0) {
        addWhere(
            segment.column(field),
            wanted[0],
            wanted[wanted.length - 1],
            wanted.length == 1 ? null : value -> NumberRange.has(wanted, value),
            bits);
      }
      return bits;
    }
    if (field.hasTerms()) {
      Dictionary.Walk walk = segment.terms(field).walk();
      for (Object value : query.values()) {
        if (walk.seek(term(field, (String) value))) {
          segment.postings(field, walk, false).addTo(bits);
        }
      }
      return bits;
    }
    boolean[] wanted = new boolean[segment.values(field).size()];
    mark(field, wanted, query.values());
    addMarked(field, wanted, bits);
    return bits;
  }

  /** Marks the places of values; a folded field may have several that are the same. */
  private void mark(Field field, boolean[] wanted, List<Object> values) {
    Dictionary dictionary = segment.values(field);
    if (!field.fold()) {
      for (Object value : values) {
        int place = dictionary.find(term(field, (String) value));
        if (place >= 0) {
          wanted[place] = true;
        }
      }
      return;
    }
    Set<String> folded = new HashSet<>();
    values.forEach(value -> folded.add(field.term((String) value)));
    Dictionary.Walk walk = dictionary.walk();
    while (walk.next() && budget.step()) {
      wanted[walk.place()] =
          folded.contains(Folding.foldCase(new String(walk.term(), StandardCharsets.UTF_8)));
    }
  }

  private void addMarked(Field field, boolean[] wanted, DocBits bits) {
    int first = 0;
    while (first < wanted.length && !wanted[first]) {
      first++;
    }
    if (first < wanted.length) {
      addWhere(
          segment.column(field), first, wanted.length - 1L, value -> wanted[(int) value], bits);
    }
  }

  private DocBits startsWith(Query.StartsWith query) {
    Field field = filterable(query.field());
    DocBits bits = new DocBits(rows);
    byte[] prefix = term(field, query.prefix());
    if (field.hasTerms()) {
      Dictionary.Walk walk = segment.terms(field).walk();
      walk.seek(prefix);
      while (walk.hasCurrent() && walk.startsWith(prefix) && budget.step()) {
        segment.postings(field, walk, false).addTo(bits);
        walk.next();
      }
      return bits;
    }
    Dictionary values = segment.values(field);
    boolean[] wanted = new boolean[values.size()];
    String folded = Folding.foldCase(query.prefix());
    for (Dictionary.Walk walk = values.walk(); walk.next() && budget.step(); ) {
      wanted[walk.place()] =
          field.fold()
              ? Folding.foldCase(new String(walk.term(), StandardCharsets.UTF_8)).startsWith(folded)
              : walk.startsWith(prefix);
    }
    addMarked(field, wanted, bits);
    return bits;
  }

  private static byte[] term(Field field, String value) {
    return field.term(value).getBytes(StandardCharsets.UTF_8);
  }

  private DocBits range(Query.Range query) {
    Field field = filterable(query.field());
    DocBits bits = new DocBits(rows);
    if (field.type().isOrdinal()) {
      textRange(field, query, bits);
      return bits;
    }
    NumberRange range =
        NumberRange.of(field, query.from(), query.withFrom(), query.to(), query.withTo());
    if (!range.isEmpty()) {
      addWhere(segment.column(field), range.from(), range.to(), null, bits);
    }
    return bits;
  }

  private void textRange(Field field, Query.Range query, DocBits bits) {
    byte[] from = query.from() == null ? null : term(field, (String) query.from());
    byte[] to = query.to() == null ? null : term(field, (String) query.to());
    if (field.hasTerms()) {
      Dictionary.Walk walk = segment.terms(field).walk();
      walk.seek(from == null ? new byte[0] : from);
      for (boolean has = walk.hasCurrent();
          has && !isBehind(walk, to, query) && budget.step();
          has = walk.next()) {
        if (from == null || query.withFrom() || walk.compareTo(from) != 0) {
          segment.postings(field, walk, false).addTo(bits);
        }
      }
      return;
    }
    Dictionary values = segment.values(field);
    boolean[] wanted = new boolean[values.size()];
    for (Dictionary.Walk walk = values.walk(); walk.next() && budget.step(); ) {
      byte[] value = term(field, new String(walk.term(), StandardCharsets.UTF_8));
      int low = from == null ? 1 : Arrays.compareUnsigned(value, from);
      int high = to == null ? -1 : Arrays.compareUnsigned(value, to);
      wanted[walk.place()] =
          (low > 0 || (low == 0 && query.withFrom()))
              && (high < 0 || (high == 0 && query.withTo()));
    }
    addMarked(field, wanted, bits);
  }

  private static boolean isBehind(Dictionary.Walk walk, byte @Nullable [] to, Query.Range query) {
    if (to == null) {
      return false;
    }
    int comparison = walk.compareTo(to);
    return query.withTo() ? comparison > 0 : comparison >= 0;
  }

  /**
   * Adds the rows with a value between two bounds for which {@code more}, if there is one, is true.
   * Blocks that lie outside the bounds are passed over, those that lie inside are taken whole.
   */
  private static void addWhere(
      Column column, long from, long to, @Nullable LongPredicate more, DocBits bits) {
    if (column.shape() == Column.Shape.NONE) {
      return;
    }
    PackedNumbers values = column.values();
    PackedNumbers.Scan scan = values.scan();
    DocBits present = column.shape() == Column.Shape.OPTIONAL ? column.present() : null;
    RowOfValue rowOf = column.shape() == Column.Shape.MANY ? new RowOfValue(column) : null;
    for (int block = 0; block < values.blocks(); block++) {
      if (values.greatest(block) < from || values.least(block) > to) {
        continue;
      }
      boolean all = more == null && values.least(block) >= from && values.greatest(block) <= to;
      long[] numbers = all ? null : scan.block(block);
      int first = block * PackedNumbers.BLOCK;
      int size = values.blockSize(block);
      for (int i = 0; i < size; i++) {
        if (numbers == null
            || (numbers[i] >= from
                && numbers[i] <= to
                && (more == null || more.test(numbers[i])))) {
          int index = first + i;
          int row = rowOf == null ? index : rowOf.row(index);
          if (present == null || present.get(row)) {
            bits.set(row);
          }
        }
      }
    }
  }

  /** Which row a value belongs to, for indexes that only grow. */
  private static final class RowOfValue {
    private final Column column;
    private int row;
    private int end;

    RowOfValue(Column column) {
      this.column = column;
      this.end = column.end(0);
    }

    int row(int index) {
      while (index >= end) {
        end = column.end(++row);
      }
      return row;
    }
  }

  private DocBits exists(Query.Exists query) {
    Field field = inScope(schema.field(query.field()));
    if (field.hasColumn()) {
      return field.type() == FieldType.PLACE
          ? segment.places(field).present().present()
          : segment.column(field).present();
    }
    DocBits bits = new DocBits(rows);
    if (field.type() == FieldType.TEXT && field.hasTerms()) {
      SegmentReader.Lengths lengths = segment.lengths(field);
      for (int doc = 0; doc < rows; doc++) {
        if (lengths.code(doc) > 0) {
          bits.set(doc);
        }
      }
      return bits;
    }
    if (field.type() == FieldType.GROUP) {
      PackedNumbers firsts = segment.groupFirsts(field);
      for (int doc = 0; doc < rows; doc++) {
        if (firsts.get(doc) < firsts.get(doc + 1L)) {
          bits.set(doc);
        }
      }
      return bits;
    }
    throw new QueryRefusedException(
        "field '" + field.name() + "' cannot be queried; give it the use 'filter'");
  }

  private DocBits keys(Query.Keys query) {
    if (inGroup) {
      throw new QueryRefusedException("a row of a group has no key");
    }
    DocBits bits = new DocBits(rows);
    for (String key : query.keys()) {
      int doc = segment.find(key.getBytes(StandardCharsets.UTF_8));
      if (doc >= 0) {
        bits.set(doc);
      }
    }
    return bits;
  }

  private DocBits within(Query.Within query) {
    Field field = filterable(query.field());
    if (field.type() != FieldType.PLACE) {
      throw new QueryRefusedException("field '" + field.name() + "' is not a place");
    }
    return new PlaceSearch(segment.places(field), query.area(), budget).rows(rows);
  }

  /** The child rows of a group for which a condition holds. */
  DocBits childRows(Query.Group query) {
    Field group = schema.field(query.field());
    if (group.type() != FieldType.GROUP) {
      throw new QueryRefusedException("field '" + group.name() + "' is not a group");
    }
    int children = (int) segment.groupFirsts(group).get(rows);
    GroupConditions.check(group, query.condition());
    return new SegmentFilter(
            segment, planner.within(group), statistics, budget, null, children, true)
        .bits(query.condition());
  }

  private DocBits group(Query.Group query) {
    DocBits holding = childRows(query);
    PackedNumbers firsts = segment.groupFirsts(schema.field(query.field()));
    int children = holding.size();
    DocBits bits = new DocBits(rows);
    int doc = 0;
    for (int row = children == 0 ? -1 : holding.next(0); row >= 0; ) {
      while (firsts.get(doc + 1L) <= row) {
        doc++;
      }
      bits.set(doc);
      int end = (int) firsts.get(doc + 1L);
      row = end >= children ? -1 : holding.next(end);
    }
    return bits;
  }

  private Field filterable(String name) {
    Field field = schema.field(name);
    boolean can =
        field.type().isOrdinal() ? field.hasTerms() || field.hasColumn() : field.hasColumn();
    if (!can) {
      throw new QueryRefusedException(
          "field '" + name + "' cannot be filtered; give it the use 'filter' in the index");
    }
    return inScope(field);
  }

  /** A field of what is filtered: the documents, or the child rows of a group. */
  private Field inScope(Field field) {
    if (field.isChild() != inGroup) {
      throw new QueryRefusedException(
          "field '%s' belongs to child rows; use it inside a condition on the group"
              .formatted(field.name()));
    }
    return field;
  }
}
