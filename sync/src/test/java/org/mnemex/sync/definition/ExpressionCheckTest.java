package org.mnemex.sync.definition;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.definition.RecordShape.ColumnRef;

/** What SQL in a definition may say. */
class ExpressionCheckTest {
  private static final RecordShape SHAPE =
      new RecordShape(
          "accession",
          List.of("no"),
          null,
          List.of(Shapes.lookup("donor", "person", Map.of("id", ColumnRef.of("donor_id")))),
          Set.of("person.email", "accession.secret"));

  private static IndexDefinition definition(String sql) {
    return new IndexDefinition(
        "plants",
        "garden",
        SHAPE,
        List.of(
            new FieldDefinition(
                Field.of("computed", FieldType.EXACT, null, Use.FILTER),
                null,
                sql,
                List.of(),
                "Computed")),
        "");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      textBlock =
          """
          upper(donor.name)                            |
          donor.email                                  | column 'person.email' is under never
          DONOR."Email"                                | column 'person.email' is under never
          coalesce(email, '')                          | column 'person.email' is under never
          lower(`email`)                               | column 'person.email' is under never
          trim([email])                                | column 'person.email' is under never
          secret                                       | column 'accession.secret' is under never
          accession.secret                             | column 'accession.secret' is under never
          donor.secret                                 |
          accession.email                              |
          'email'                                      |
          name /* email */ -- email                    |
          to_json(donor)                               | 'donor' stands for a whole row
          donor::text                                  | 'donor' stands for a whole row
          donor.*                                      | 'donor' stands for a whole row
          donor.name                                   |
          (SELECT max(n) FROM sighting)                | a sub-query reads tables whose changes are not followed
          exists(select 1 from bed)                    | a sub-query reads tables whose changes are not followed
          "select"                                     | a sub-query reads tables whose changes are not followed
          accession."select"                           |
          """)
  void whatIsForbiddenOrNotFollowedIsRefused(String sql, @Nullable String problem) {
    List<InvalidDefinitionException> problems = ExpressionCheck.problems(definition(sql));
    if (problem == null) {
      assertThat(problems).isEmpty();
    } else {
      assertThat(problems)
          .singleElement()
          .satisfies(e -> assertThat(e).hasMessageContaining(problem));
    }
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      textBlock =
          """
          planted_on <= now()                 | now
          planted_on < CURRENT_DATE           | current_date
          julianday('now') - planted_on       | 'now'
          strftime('%Y', 'now')               | 'now'
          status = 'now'                      |
          strftime('%Y', planted_on)          |
          """)
  void whatChangesWithTimeIsWarnedOf(String sql, @Nullable String what) {
    List<String> warnings = ExpressionCheck.warnings(definition(sql));
    if (what == null) {
      assertThat(warnings).isEmpty();
    } else {
      assertThat(warnings)
          .singleElement()
          .asString()
          .startsWith("fields.computed.sql: " + what + " changes without a change to any row");
    }
  }
}
