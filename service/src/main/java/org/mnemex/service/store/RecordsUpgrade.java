package org.mnemex.service.store;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.DirectoryStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Arrays;
import java.util.Comparator;
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.MigrationInfo;
import org.flywaydb.core.api.MigrationInfoService;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.flyway.autoconfigure.FlywayMigrationStrategy;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;

/**
 * Brings our records to the form of this version. Those of an older one are copied before, so that
 * there is a way back; those of a newer one are not touched.
 */
@Component
class RecordsUpgrade implements FlywayMigrationStrategy {
  private static final Logger LOG = LoggerFactory.getLogger(RecordsUpgrade.class);

  private static final String COPY = "mnemex.db.form-";

  private final Path data;
  private final DataSource database;

  RecordsUpgrade(MnemexSettings settings, DataSource database) {
    this.data = settings.data();
    this.database = database;
  }

  /**
   * Upgrades.
   *
   * @throws SettingsException if a newer version has written the records
   */
  @Override
  public void migrate(Flyway flyway) {
    MigrationInfoService info = flyway.info();
    MigrationInfo current = info.current();
    if (current != null) {
      String now = current.getVersion().toString();
      if (Arrays.stream(info.applied()).anyMatch(one -> !one.getState().isResolved())) {
        throw new SettingsException(
            ("a newer version of Mnemex has written the data folder %s: its records have form %s,"
                    + " and this version knows none above %s. Start the newer version, or go back as"
                    + " the guide says under 'Upgrade'")
                .formatted(data, now, newestKnown(info)));
      }
      if (info.pending().length == 0) {
        return;
      }
      copy(now);
    }
    flyway.migrate();
  }

  private static String newestKnown(MigrationInfoService info) {
    return Arrays.stream(info.all())
        .filter(one -> one.getState().isResolved())
        .map(MigrationInfo::getVersion)
        .max(Comparator.naturalOrder())
        .map(String::valueOf)
        .orElse("0");
  }

  /** Keeps the records of the version before. */
  private void copy(String form) {
    Path part = data.resolve(COPY + form + ".part");
    Path copy = data.resolve(COPY + form);
    try {
      Files.deleteIfExists(part);
      JdbcClient.create(database).sql("VACUUM INTO ?").param(part.toString()).update();
      Files.move(part, copy, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
      removeOthers(copy);
    } catch (IOException e) {
      throw new UncheckedIOException("the records cannot be copied to " + copy, e);
    }
    LOG.info("the records of the version before are kept as {}", copy);
  }

  private void removeOthers(Path copy) throws IOException {
    try (DirectoryStream<Path> copies = Files.newDirectoryStream(data, COPY + "*")) {
      for (Path older : copies) {
        if (!older.equals(copy)) {
          Files.delete(older);
        }
      }
    }
  }
}
