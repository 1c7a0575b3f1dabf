package org.mnemex.service.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.configuration.FluentConfiguration;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.sqlite.SQLiteDataSource;

/** Records of an older version, and of a newer one. */
class RecordsUpgradeTest {
  /** The form before the tables of conditions. */
  private static final String OLDER = "15";

  @TempDir private Path data;
  private SQLiteDataSource database;
  private JdbcClient sql;
  private RecordsUpgrade upgrade;

  @BeforeEach
  void open() {
    database = new SQLiteDataSource();
    database.setUrl("jdbc:sqlite:" + data.resolve("mnemex.db"));
    sql = JdbcClient.create(database);
    MnemexSettings settings = mock(MnemexSettings.class);
    when(settings.data()).thenReturn(data);
    upgrade = new RecordsUpgrade(settings, database);
  }

  private FluentConfiguration flyway() {
    return Flyway.configure().dataSource(database);
  }

  private long tables(String name) {
    return sql.sql("SELECT count(*) FROM sqlite_master WHERE type = 'table' AND name LIKE ?")
        .param(name)
        .query(Long.class)
        .single();
  }

  @Test
  void whatAnOlderVersionWroteIsKeptForAWayBack() throws Exception {
    flyway().target(OLDER).load().migrate();
    sql.sql(
            "INSERT INTO job (kind, about, detail, state, started) VALUES ('a', 'b', 'c', 'd', 'e')")
        .update();
    Files.writeString(data.resolve("mnemex.db.form-3"), "of a former upgrade");
    upgrade.migrate(flyway().load());
    assertThat(tables("held_condition")).isPositive();
    Path copy = data.resolve("mnemex.db.form-" + OLDER);
    assertThat(data.resolve("mnemex.db.form-3")).doesNotExist();
    // The way back.
    Files.move(copy, data.resolve("mnemex.db"), StandardCopyOption.REPLACE_EXISTING);
    assertThat(tables("held_condition")).isZero();
    assertThat(sql.sql("SELECT about FROM job").query(String.class).single()).isEqualTo("b");
    flyway().target(OLDER).load().validate();
    // And forward again; then there is nothing to do.
    upgrade.migrate(flyway().load());
    assertThat(copy).exists();
    Files.delete(copy);
    upgrade.migrate(flyway().load());
    assertThat(copy).doesNotExist();
  }

  @Test
  void whatANewerVersionWroteIsLeftAlone() throws Exception {
    upgrade.migrate(flyway().load());
    sql.sql(
            "INSERT INTO flyway_schema_history SELECT max(installed_rank) + 1, '999', 'later',"
                + " 'SQL', 'V999__later.sql', 1, 'somebody', CURRENT_TIMESTAMP, 1, 1"
                + " FROM flyway_schema_history")
        .update();
    byte[] before = Files.readAllBytes(data.resolve("mnemex.db"));
    assertThatThrownBy(() -> upgrade.migrate(flyway().load()))
        .isInstanceOf(SettingsException.class)
        .hasMessageContaining("a newer version of Mnemex has written the data folder " + data)
        .hasMessageContaining("its records have form 999")
        .hasMessageContaining("Start the newer version");
    assertThat(Files.readAllBytes(data.resolve("mnemex.db"))).isEqualTo(before);
  }
}
