package org.mnemex.engine.query;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

class FilterTextTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("family", FieldType.EXACT, null, Use.FILTER),
              Field.of("height_cm", FieldType.INTEGER, null, Use.FILTER),
              Field.of("planted_on", FieldType.DATE, null, Use.FILTER),
              Field.of("evergreen", FieldType.BOOLEAN, null, Use.FILTER),
              Field.of("interest", FieldType.INTEGER, null, Use.RANK),
              Field.of(
                  "notes", FieldType.TEXT, Components.analysers().get("english"), Use.SEARCH)));

  @Test
  void readsThePredicatePartOfSql() {
    Query query =
        FilterText.parse(
            """
            family IN ('Aspleniaceae', 'O''Hara') and height_cm BETWEEN -5 AND 60
              AND (planted_on >= DATE '2019-01-01' OR NOT evergreen)
              AND family NOT LIKE 'Asp%' AND height_cm IS NOT NULL
            """,
            SCHEMA);
    assertThat(query)
        .isEqualTo(
            new Query.AllOf(
                List.of(
                    new Query.OneOf("family", List.of("Aspleniaceae", "O'Hara")),
                    new Query.Range("height_cm", -5L, true, 60L, true),
                    new Query.AnyOf(
                        List.of(
                            new Query.Range(
                                "planted_on", LocalDate.parse("2019-01-01"), true, null, false),
                            new Query.Not(new Query.OneOf("evergreen", List.of(true))))),
                    new Query.Not(new Query.StartsWith("family", "Asp")),
                    new Query.Exists("height_cm"))));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '"',
      textBlock =
          """
          famly = 'x'              | line 1, column 1: unknown field 'famly'; did you mean 'family'?
          family = 'x' AND NOT zzz | line 1, column 22: unknown field 'zzz'
          family = x               | line 1, column 10: field 'family' (exact) is compared with a text in quotes, 'like this', found 'x'
          height_cm > 'tall'       | line 1, column 13: field 'height_cm' (integer) is compared with a whole number, found 'tall'
          planted_on < '2019-13-01'| line 1, column 14: field 'planted_on' (date) is compared with a date, DATE '2026-05-04'
          family = 'x              | line 1, column 10: the text has no closing quote
          family IN ('x'           | line 1, column 15: expected ')', found 'the end'
          family = 'x' height_cm   | line 1, column 14: expected AND, OR or the end, found 'height_cm'
          family                   | line 1, column 7: expected =, <>, <, <=, >, >=, IN, BETWEEN, LIKE or IS after 'family', found 'the end'
          notes = 'x'              | line 1, column 1: the words of field 'notes' are asked for with MATCHES(notes, '…')
          interest > 3             | line 1, column 1: field 'interest' does not have the use 'filter' (fields that have: family, height_cm, planted_on, evergreen)
          family LIKE '%x'         | line 1, column 13: LIKE takes 'beginning%' of an exact or path field
          ""                       | line 1, column 1: expected a field, found 'the end'
          """)
  void errorsSayWhereAndWhat(String filter, String message) {
    assertThatThrownBy(() -> FilterText.parse(filter, SCHEMA))
        .isInstanceOf(FilterSyntaxException.class)
        .hasMessage(message);
  }

  @Test
  void nestingIsLimited() {
    assertThatThrownBy(() -> FilterText.parse("(".repeat(5000) + "evergreen", SCHEMA))
        .hasMessageContaining("nested more than 100 deep");
    assertThatThrownBy(() -> FilterText.parse("NOT ".repeat(4000) + "evergreen", SCHEMA))
        .hasMessageContaining("nested more than 100 deep");
  }

  @Property
  void whatPeopleTypeIsNeverAnError(@ForAll String typed, @ForAll boolean all) {
    assertThat(QueryText.parse(typed, Map.of("notes", 1.0), all, true)).isNotNull();
  }

  @Test
  void typedSyntax() {
    Map<String, Double> in = Map.of("notes", 1.0);
    assertThat(QueryText.parse("\"slug damage\" fern OR moss -rust har*", in, true, false))
        .isEqualTo(
            new Query.AllOf(
                List.of(
                    new Query.AllOf(
                        List.of(
                            new Query.Phrase(in, "slug damage"),
                            new Query.AnyOf(
                                List.of(
                                    new Query.Word(in, "fern", false),
                                    new Query.Word(in, "moss", false))),
                            new Query.Word(in, "har", true))),
                    new Query.Unless(new Query.Word(in, "rust", false)))));
    assertThat(QueryText.parse(" \"shade", in, true, true))
        .isEqualTo(new Query.Word(in, "shade", true));
  }
}
