package org.mnemex.sync.draft;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.postgres.PostgresSource;

/** Drafts over a schema of its own, as somebody who may read only some of its tables. */
class DraftTest {
  private SourceDefinition.Server definition;
  private PostgresSource asReader;

  @BeforeEach
  void make() throws Exception {
    definition = TestServers.inSchema(TestServers.newPostgres(), "beds");
    run(
        """
        CREATE SCHEMA beds;
        CREATE TYPE beds.state AS ENUM ('planted', 'lost');
        CREATE DOMAIN beds.centimetres AS int CHECK (VALUE > 0);
        CREATE TABLE beds.seed_house (id int PRIMARY KEY, name text);
        CREATE TABLE beds.plant (id int PRIMARY KEY, code text, seed_house_id int REFERENCES beds.seed_house,
          height int, girth int, rows int, packets int, leaves int, label text, name text, summary text, story text,
          seen timestamptz, homepage text, state beds.state DEFAULT 'planted', spread beds.centimetres DEFAULT 4);
        CREATE TABLE beds.plant_tag (plant_id int REFERENCES beds.plant, tag text, PRIMARY KEY (plant_id, tag));
        CREATE TABLE beds.watering (plant_id int REFERENCES beds.plant, place int, said text,
          PRIMARY KEY (plant_id, place));
        CREATE TABLE beds.accounts (id int PRIMARY KEY, plant_id int REFERENCES beds.plant, amount int);
        CREATE TABLE beds.wages (id int PRIMARY KEY, amount int);
        INSERT INTO beds.seed_house SELECT i, 'House ' || i FROM generate_series(1, 3) i;
        INSERT INTO beds.plant SELECT i, 'c-' || i * 7, 1 + i % 3, i, i, i, i, i, 'Label of ' || i, 'Fern ' || i,
          'the fern is fond of the shade and of water', repeat('the fern was seen with the moss ', 9),
          now(), CASE WHEN i % 2 = 0 THEN 'https://plants.quillmere.example/' || i ELSE '' END FROM generate_series(1, 60) i;
        INSERT INTO beds.plant_tag SELECT i, t FROM generate_series(1, 60) i, unnest(ARRAY['wet', 'shade']) t;
        INSERT INTO beds.watering SELECT i, 1, 'Watered' FROM generate_series(1, 60) i;
        """);
    asReader = new PostgresSource(TestServers.asPoorUser(definition));
  }

  private void run(String sql) throws SQLException {
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  @Test
  void aTableThatMayNotBeReadIsNamedWithWhatAllowsIt() throws Exception {
    assertThatThrownBy(() -> Draft.of(asReader, "plant"))
        .isInstanceOf(IllegalArgumentException.class)
        .hasMessageEndingWith(
            """
            has to run:
            GRANT USAGE ON SCHEMA "beds" TO "poor";
            GRANT SELECT ON "beds"."plant" TO "poor";""");
    run(
        "GRANT USAGE ON SCHEMA beds TO poor;"
            + " GRANT SELECT ON beds.plant, beds.plant_tag, beds.watering TO poor");
    assertThat(Draft.of(asReader, "plant"))
        .contains(
            "# left out: seed_house: it cannot be read; GRANT SELECT ON \"beds\".\"seed_house\" TO \"poor\";",
            "# left out: accounts: it cannot be read; GRANT SELECT ON \"beds\".\"accounts\" TO \"poor\";")
        .doesNotContain("wages", "seed_house_name");
  }

  @Test
  void whatTellsRelatedRowsApartIsAValueIfItSaysSomething() throws Exception {
    List<String> lines =
        Draft.of(new PostgresSource(definition), "plant")
            .lines()
            .map(line -> line.replaceAll(" +# .*", "").strip())
            .toList();
    assertThat(lines)
        .contains(
            "plant_tags_tag: {from: plant_tags.tag, type: exact, uses: [facet, filter, show]}",
            "plant_tags_tag: {field: plant_tags_tag}",
            "seed_house_name: {from: seed_house.name, type: exact, uses: [facet, filter, show]}")
        .noneMatch(line -> line.startsWith("waterings_place"));
  }

  @Test
  void typesOfTheDatabaseAreWhatTheyStandFor() throws Exception {
    assertThat(Draft.of(new PostgresSource(definition), "plant"))
        .contains(
            "state: {from: state, type: exact, uses: [facet, filter, show]}  # values that the database lists",
            "spread: {from: spread, type: integer,");
  }

  @Test
  void resultsShowNamesAndProseBeforeNumbers() throws Exception {
    assertThat(Draft.of(new PostgresSource(definition), "plant"))
        .contains(
            """
            show: [id, code, label, name, summary, story, homepage, state]
            card: {title: label, subtitle: name, link: "{homepage}"}  # how a result looks
            highlights:
              code: whole
              label: whole
              name: whole
              summary: whole
              story: {fragments: 2, words: 25}
            """);
  }
}
