package org.mnemex.engine.query;

import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.FilterLexemes.Kind;
import org.mnemex.engine.query.FilterLexemes.Lexeme;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.NearestName;

/**
 * Reads a filter written as the predicate part of SQL (ISO/IEC 9075-2, search condition):
 *
 * <pre>
 * condition  = and { OR and }
 * and        = factor { AND factor }
 * factor     = NOT factor | ( condition ) | predicate
 * predicate  = field ( = | &lt;&gt; | != | &lt; | &lt;= | &gt; | &gt;= ) literal
 *            | field [ NOT ] IN ( literal { , literal } )
 *            | field [ NOT ] BETWEEN literal AND literal
 *            | field [ NOT ] LIKE 'pre%'
 *            | field IS [ NOT ] NULL
 *            | field                            (boolean fields)
 *            | DISTANCE ( place, latitude, longitude ) ( &lt; | &lt;= ) metres
 *            | INSIDE ( place, BOX ( south, west, north, east ) )
 *            | INSIDE ( place, POLYGON ( latitude, longitude, … ) )
 *            | MATCHES ( text field, 'what people type' )
 *            | EXISTS ( group WHERE condition )
 * literal    = 'text' | number | [ DATE ] 'yyyy-mm-dd' | TRUE | FALSE
 *            | [ TIMESTAMP ] 'yyyy-mm-ddThh:mm:ssZ'
 * </pre>
 *
 * <p>A field whose name is a word of this language, or has other characters than letters, digits
 * and {@code _}, is written in double quotes: {@code "date"}.
 *
 * <p>Unlike in SQL a comparison with a missing value is false, not unknown, so {@code NOT
 * (height_cm > 3)} includes documents without a height.
 */
public final class FilterText {
  private static final int MAX_LENGTH = 20_000;
  private static final int MAX_DEPTH = 100;
  private final Schema schema;
  private final FilterLexemes lexemes;
  private int depth;
  private String group = "";

  private FilterText(String text, Schema schema) {
    this.schema = schema;
    this.lexemes = new FilterLexemes(text);
  }

  /**
   * The query for a filter.
   *
   * @throws FilterSyntaxException with line, column and suggestion, if it cannot be read or names a
   *     field that is not there or does not have the use {@code filter}
   */
  public static Query parse(String text, Schema schema) {
    if (text.length() > MAX_LENGTH) {
      throw new FilterSyntaxException(
          1, 1, "a filter may have at most " + MAX_LENGTH + " characters", null);
    }
    FilterText parser = new FilterText(text, schema);
    Query query = parser.condition();
    Lexeme rest = parser.lexemes.peek();
    if (rest.kind() != Kind.END) {
      throw parser.error(rest, "expected AND, OR or the end, found '" + rest.text() + "'", null);
    }
    return query;
  }

  private Query condition() {
    if (++depth > MAX_DEPTH) {
      throw error(lexemes.peek(), "nested more than " + MAX_DEPTH + " deep", null);
    }
    List<Query> alternatives = new ArrayList<>(List.of(conjunction()));
    while (lexemes.takeWord("OR")) {
      alternatives.add(conjunction());
    }
    depth--;
    return alternatives.size() == 1 ? alternatives.getFirst() : new Query.AnyOf(alternatives);
  }

  private Query conjunction() {
    List<Query> clauses = new ArrayList<>(List.of(factor()));
    while (lexemes.takeWord("AND")) {
      clauses.add(factor());
    }
    return clauses.size() == 1 ? clauses.getFirst() : new Query.AllOf(clauses);
  }

  private Query factor() {
    if (lexemes.takeWord("NOT")) {
      if (++depth > MAX_DEPTH) {
        throw error(lexemes.peek(), "nested more than " + MAX_DEPTH + " deep", null);
      }
      Query negated = new Query.Not(factor());
      depth--;
      return negated;
    }
    if (lexemes.takeSymbol("(")) {
      Query inner = condition();
      lexemes.expectSymbol(")");
      return inner;
    }
    return predicate();
  }

  private Query predicate() {
    Lexeme name = lexemes.next();
    if (name.kind() == Kind.NAME && FilterLexemes.isReserved(name)) {
      throw error(
          name,
          "expected a field, found '%s'; a field of that name is written \"%s\""
              .formatted(name.text(), name.text()),
          null);
    }
    if (!isName(name)) {
      throw error(name, "expected a field, found '" + name.text() + "'", null);
    }
    if (name.kind() == Kind.NAME
        && lexemes.peek().kind() == Kind.SYMBOL
        && lexemes.peek().text().equals("(")) {
      Query called = function(name);
      if (called != null) {
        return called;
      }
    }
    Field field = field(name);
    if (!field.isChild()
        && field.type() != FieldType.TEXT
        && !field.uses().contains(Use.FILTER)
        && !field.uses().contains(Use.FACET)) {
      throw error(
          name,
          "field '%s' does not have the use 'filter' (fields that have: %s)"
              .formatted(name.text(), filterable()),
          null);
    }
    if (lexemes.takeWord("IS")) {
      boolean not = lexemes.takeWord("NOT");
      lexemes.expectWord("NULL");
      Query exists = new Query.Exists(field.name());
      return not ? exists : new Query.Not(exists);
    }
    if (field.type() == FieldType.TEXT) {
      throw error(
          name,
          "the words of field '%s' are asked for with MATCHES(%s, '…')"
              .formatted(name.text(), name.text()),
          null);
    }
    boolean not = lexemes.takeWord("NOT");
    Query query = comparison(name, field, not);
    return not ? new Query.Not(query) : query;
  }

  private static boolean isName(Lexeme lexeme) {
    return lexeme.kind() == Kind.NAME || lexeme.kind() == Kind.QUOTED;
  }

  private Field field(Lexeme name) {
    String full = group + name.text();
    if (!schema.has(full)) {
      List<String> names =
          group.isEmpty()
              ? schema.fields().stream().map(Field::name).toList()
              : schema.field(group.substring(0, group.length() - 1)).children().stream()
                  .map(Field::ownName)
                  .toList();
      throw error(name, "unknown field '" + name.text() + "'", NearestName.to(name.text(), names));
    }
    return schema.field(full);
  }

  /** A predicate that is written like a call, or null if there is none of that name. */
  private @Nullable Query function(Lexeme name) {
    if (!group.isEmpty()) {
      // A row has no places, and no rows of its own.
      return name.text().equalsIgnoreCase("MATCHES") ? matches() : null;
    }
    return switch (name.text().toUpperCase(Locale.ROOT)) {
      case "DISTANCE" -> distance();
      case "INSIDE" -> inside();
      case "MATCHES" -> matches();
      case "EXISTS" -> exists();
      default -> null;
    };
  }

  private Field argument(FieldType type) {
    lexemes.expectSymbol("(");
    Lexeme name = lexemes.next();
    Field field = field(name);
    if (field.type() != type) {
      throw error(
          name,
          "field '%s' is of type %s; a %s field is expected here"
              .formatted(name.text(), field.type().word(), type.word()),
          null);
    }
    return field;
  }

  private Query distance() {
    Field field = argument(FieldType.PLACE);
    Lexeme first = lexemes.peek();
    lexemes.expectSymbol(",");
    double latitude = number();
    lexemes.expectSymbol(",");
    double longitude = number();
    lexemes.expectSymbol(")");
    if (!lexemes.takeSymbol("<") && !lexemes.takeSymbol("<=")) {
      throw error(lexemes.peek(), "expected < or <= and a distance in metres", null);
    }
    try {
      return new Query.Within(
          field.name(), new Area.Circle(new Place(latitude, longitude), number()));
    } catch (IllegalArgumentException e) {
      throw error(first, String.valueOf(e.getMessage()), null);
    }
  }

  private Query inside() {
    Field field = argument(FieldType.PLACE);
    lexemes.expectSymbol(",");
    Lexeme shape = lexemes.next();
    List<Double> numbers = new ArrayList<>();
    lexemes.expectSymbol("(");
    do {
      numbers.add(number());
    } while (lexemes.takeSymbol(","));
    lexemes.expectSymbol(")");
    lexemes.expectSymbol(")");
    try {
      if (FilterLexemes.isWord(shape, "BOX") && numbers.size() == 4) {
        Place corner = new Place(numbers.get(0), numbers.get(1));
        Place other = new Place(numbers.get(2), numbers.get(3));
        return new Query.Within(
            field.name(),
            new Area.Box(
                corner.latitude(), corner.longitude(), other.latitude(), other.longitude()));
      }
      if (FilterLexemes.isWord(shape, "POLYGON") && numbers.size() % 2 == 0) {
        List<Place> corners = new ArrayList<>();
        for (int i = 0; i < numbers.size(); i += 2) {
          corners.add(new Place(numbers.get(i), numbers.get(i + 1)));
        }
        return new Query.Within(field.name(), new Area.Polygon(corners));
      }
    } catch (IllegalArgumentException e) {
      throw error(shape, String.valueOf(e.getMessage()), null);
    }
    throw error(
        shape, "expected BOX(south, west, north, east) or POLYGON(latitude, longitude, …)", null);
  }

  private Query matches() {
    Field field = argument(FieldType.TEXT);
    lexemes.expectSymbol(",");
    Lexeme text = lexemes.next();
    if (text.kind() != Kind.STRING) {
      throw error(text, "expected a text in quotes, found '" + text.text() + "'", null);
    }
    lexemes.expectSymbol(")");
    return new Query.Holds(QueryText.parse(text.text(), Map.of(field.name(), 1.0), true, false));
  }

  private Query exists() {
    Field field = argument(FieldType.GROUP);
    lexemes.expectWord("WHERE");
    group = field.name() + ".";
    Query condition = condition();
    group = "";
    lexemes.expectSymbol(")");
    return new Query.Group(field.name(), condition);
  }

  private double number() {
    Lexeme value = lexemes.next();
    if (value.kind() != Kind.NUMBER) {
      throw error(value, "expected a number, found '" + value.text() + "'", null);
    }
    try {
      return Double.parseDouble(value.text());
    } catch (NumberFormatException e) {
      throw error(value, "expected a number, found '" + value.text() + "'", null);
    }
  }

  private Query comparison(Lexeme name, Field field, boolean afterNot) {
    if (lexemes.takeWord("IN")) {
      lexemes.expectSymbol("(");
      List<Object> values = new ArrayList<>(List.of(literal(field)));
      while (lexemes.takeSymbol(",")) {
        values.add(literal(field));
      }
      lexemes.expectSymbol(")");
      return new Query.OneOf(field.name(), values);
    }
    if (lexemes.takeWord("BETWEEN")) {
      Object from = literal(field);
      lexemes.expectWord("AND");
      return new Query.Range(field.name(), from, true, literal(field), true);
    }
    if (lexemes.takeWord("LIKE")) {
      return like(field);
    }
    Lexeme operator = lexemes.peek();
    if (afterNot) {
      throw error(operator, "expected IN, BETWEEN or LIKE after NOT", null);
    }
    if (operator.kind() == Kind.SYMBOL) {
      lexemes.next();
      Query compared = compare(operator.text(), field);
      if (compared != null) {
        return compared;
      }
      lexemes.back();
    }
    if (field.type() == FieldType.BOOLEAN) {
      return new Query.OneOf(field.name(), List.of(true));
    }
    throw error(
        operator,
        "expected =, <>, <, <=, >, >=, IN, BETWEEN, LIKE or IS after '%s', found '%s'"
            .formatted(name.text(), operator.text()),
        null);
  }

  private @Nullable Query compare(String operator, Field field) {
    String name = field.name();
    return switch (operator) {
      case "=" -> new Query.OneOf(name, List.of(literal(field)));
      case "<>", "!=" -> new Query.Not(new Query.OneOf(name, List.of(literal(field))));
      case "<" -> new Query.Range(name, null, false, literal(field), false);
      case "<=" -> new Query.Range(name, null, false, literal(field), true);
      case ">" -> new Query.Range(name, literal(field), false, null, false);
      case ">=" -> new Query.Range(name, literal(field), true, null, false);
      default -> null;
    };
  }

  private Query like(Field field) {
    Lexeme pattern = lexemes.next();
    boolean prefix =
        pattern.kind() == Kind.STRING
            && pattern.text().endsWith("%")
            && pattern.text().indexOf('%') == pattern.text().length() - 1
            && pattern.text().indexOf('_') < 0;
    if (!field.type().isOrdinal() || !prefix) {
      throw error(pattern, "LIKE takes 'beginning%' of an exact or path field", null);
    }
    return new Query.StartsWith(
        field.name(), pattern.text().substring(0, pattern.text().length() - 1));
  }

  private Object literal(Field field) {
    String keyword =
        lexemes.takeWord("DATE") ? "DATE" : lexemes.takeWord("TIMESTAMP") ? "TIMESTAMP" : null;
    Lexeme value = lexemes.next();
    if (keyword != null && !(field.type().isNumeric() && field.type().numbers().takes(keyword))) {
      throw error(value, wants(field), null);
    }
    if (!isWritten(field.type(), value)) {
      throw error(value, wants(field) + ", found '" + value.text() + "'", null);
    }
    try {
      return field.type().parse(value.text());
    } catch (NumberFormatException | DateTimeParseException e) {
      throw error(value, wants(field), null);
    }
  }

  /** Whether a lexeme is of the form that values of a type have. */
  private static boolean isWritten(FieldType type, Lexeme value) {
    return switch (type.storage()) {
      case ORDINALS -> value.kind() == Kind.STRING;
      case NUMBERS ->
          switch (type.numbers().literal()) {
            case NUMBER -> value.kind() == Kind.NUMBER;
            case QUOTED -> value.kind() == Kind.STRING;
            case WORD ->
                FilterLexemes.isWord(value, "TRUE") || FilterLexemes.isWord(value, "FALSE");
          };
      case TEXT, PLACES, ROWS -> false;
    };
  }

  private static String wants(Field field) {
    if (field.type() == FieldType.PLACE || field.type() == FieldType.GROUP) {
      return "field '%s' (%s) is queried with %s"
          .formatted(
              field.name(),
              field.type().word(),
              field.type() == FieldType.PLACE
                  ? "DISTANCE(" + field.name() + ", 51.2, -0.3) < 500 or INSIDE(…)"
                  : "EXISTS (" + field.name() + " WHERE …)");
    }
    return "field '%s' (%s) is compared with %s"
        .formatted(
            field.name(),
            field.type().word(),
            field.type().isNumeric()
                ? field.type().numbers().literalForm()
                : "a text in quotes, 'like this'");
  }

  private String filterable() {
    return schema.fields().stream()
        .filter(f -> f.uses().contains(Use.FILTER) || f.uses().contains(Use.FACET))
        .map(Field::name)
        .collect(Collectors.joining(", "));
  }

  private FilterSyntaxException error(Lexeme at, String what, @Nullable String suggestion) {
    return at.error(what, suggestion);
  }
}
