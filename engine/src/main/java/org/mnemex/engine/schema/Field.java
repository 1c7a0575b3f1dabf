package org.mnemex.engine.schema;

import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Folding;

/**
 * One field of an index.
 *
 * @param name lower-case name, unique in the schema; a child of a group is named {@code
 *     group.child}
 * @param type type of its values; every field but a place may hold several
 * @param uses what it may be used for
 * @param fold exact fields only: match and sort without regard to case and accents
 * @param weight default weight in relevance, above 0
 * @param analyser text fields only: the chain for documents
 * @param queryAnalyser text fields only: the chain for queries
 * @param scale decimal fields only: digits after the point, 0 to 9
 * @param children group fields only: the fields of a child row, which cannot be place or group
 */
public record Field(
    String name,
    FieldType type,
    Set<Use> uses,
    boolean fold,
    double weight,
    @Nullable Analyser analyser,
    @Nullable Analyser queryAnalyser,
    int scale,
    List<Field> children) {

  /** Exact values are indexed by this many UTF-16 units. */
  public static final int MAX_UNITS = 1_000;

  private static final int MAX_SCALE = 9;

  public Field {
    uses = Set.copyOf(uses);
    children = List.copyOf(children);
    if ((type == FieldType.TEXT) != (analyser != null && queryAnalyser != null)) {
      throw new IllegalArgumentException(
          "field '" + name + "': analysers belong to text fields, and to all of them");
    }
    if (type == FieldType.TEXT
        && (uses.contains(Use.FACET) || uses.contains(Use.SORT) || uses.contains(Use.FILTER))) {
      throw new IllegalArgumentException(
          "field '"
              + name
              + "': a text field cannot be used for facet, sort or filter; "
              + "add an exact field from the same column");
    }
    if (!(weight > 0)) {
      throw new IllegalArgumentException("field '" + name + "': weight must be above 0");
    }
    if (scale < 0 || scale > MAX_SCALE || (scale > 0 && type != FieldType.DECIMAL)) {
      throw new IllegalArgumentException(
          "field '" + name + "': scale is 0 to " + MAX_SCALE + ", for decimal fields only");
    }
    if ((type == FieldType.GROUP) == children.isEmpty()) {
      throw new IllegalArgumentException(
          "field '" + name + "': fields of child rows belong to groups, and to all of them");
    }
    for (Field child : children) {
      if (!child.type.isNumeric() && !child.type.isOrdinal() && child.type != FieldType.TEXT) {
        throw new IllegalArgumentException(
            "field '" + child.name + "': a group cannot hold a " + child.type.word() + " field");
      }
      if (!child.name.startsWith(name + ".")) {
        throw new IllegalArgumentException(
            "field '" + child.name + "' of group '" + name + "' must be named " + name + ".…");
      }
    }
  }

  /** A field that is neither decimal nor group. */
  public Field(
      String name,
      FieldType type,
      Set<Use> uses,
      boolean fold,
      double weight,
      @Nullable Analyser analyser,
      @Nullable Analyser queryAnalyser) {
    this(name, type, uses, fold, weight, analyser, queryAnalyser, 0, List.of());
  }

  /** A field whose queries are analysed as its documents are, as far as that makes sense. */
  public static Field of(String name, FieldType type, @Nullable Analyser analyser, Use... uses) {
    Analyser forQueries = analyser == null ? null : analyser.forQueries();
    return new Field(name, type, Set.of(uses), false, 1, analyser, forQueries);
  }

  /** A decimal field. */
  public static Field decimal(String name, int scale, Use... uses) {
    return new Field(name, FieldType.DECIMAL, Set.of(uses), false, 1, null, null, scale, List.of());
  }

  /** A group of child rows. */
  public static Field group(String name, List<Field> children, Use... uses) {
    return new Field(name, FieldType.GROUP, Set.of(uses), false, 1, null, null, 0, children);
  }

  /** Whether it is compared with values: the uses filter, facet and sort. */
  private boolean isCompared() {
    return uses.contains(Use.FACET) || uses.contains(Use.SORT) || uses.contains(Use.FILTER);
  }

  /** Whether there is a dictionary of terms with postings. */
  public boolean hasTerms() {
    return switch (type.storage()) {
      case TEXT -> uses.contains(Use.SEARCH);
      case ORDINALS ->
          !isChild()
              && (uses.contains(Use.SEARCH)
                  || uses.contains(Use.FILTER)
                  || uses.contains(Use.FACET));
      default -> false;
    };
  }

  /** Whether values can be looked up by document, for facets, sorting and ranges. */
  public boolean hasColumn() {
    return switch (type.storage()) {
      case ORDINALS -> isCompared() || isChild();
      case NUMBERS, PLACES -> isCompared() || isChild() || uses.contains(Use.RANK);
      case TEXT, ROWS -> false;
    };
  }

  /** Whether it is a field of a group's child rows. */
  public boolean isChild() {
    return name.indexOf('.') >= 0;
  }

  /** The name within its group, or the name. */
  public String ownName() {
    return name.substring(name.indexOf('.') + 1);
  }

  /** Whether the value itself is kept, to be shown or highlighted. */
  public boolean isStored() {
    return uses.contains(Use.SHOW)
        || uses.contains(Use.SUGGEST)
        || (type == FieldType.TEXT && uses.contains(Use.SEARCH));
  }

  /**
   * The number that stands for a value of a numeric field: itself; the unscaled value; days since
   * 1970-01-01; microseconds since 1970-01-01T00:00Z; 0 and 1.
   *
   * @throws ArithmeticException if the value does not fit
   */
  public long toNumber(Object value) {
    return type.numbers().toNumber(value, scale);
  }

  /** The value that a number of {@link #toNumber} stands for. */
  public Object fromNumber(long number) {
    return type.numbers().fromNumber(number, scale);
  }

  /** Of a field of days or moments: microseconds since 1970-01-01T00:00Z. */
  public long micros(long number) {
    return type.numbers().micros(number);
  }

  /** An exact value as far as it is indexed: no more than {@link #MAX_UNITS} UTF-16 units. */
  public static String indexed(String value) {
    if (value.length() <= MAX_UNITS) {
      return value;
    }
    return value.substring(
        0, Character.isHighSurrogate(value.charAt(MAX_UNITS - 1)) ? MAX_UNITS - 1 : MAX_UNITS);
  }

  /** The term of a value of an exact or path field. */
  public String term(String value) {
    return fold ? Folding.foldCase(indexed(value)) : indexed(value);
  }

  /** Everything that decides how the index files of this field look. */
  public String signature() {
    StringBuilder out = new StringBuilder(name).append(' ').append(type.word());
    if (fold) {
      out.append(" fold");
    }
    if (scale > 0) {
      out.append(" scale ").append(scale);
    }
    out.append(hasTerms() ? " terms" : "")
        .append(hasColumn() ? " column" : "")
        .append(isStored() ? " stored" : "");
    if (analyser != null) {
      out.append(" [").append(analyser.signature()).append(']');
    }
    if (!children.isEmpty()) {
      out.append(
          children.stream().map(Field::signature).collect(Collectors.joining(", ", " {", "}")));
    }
    return out.toString();
  }
}
