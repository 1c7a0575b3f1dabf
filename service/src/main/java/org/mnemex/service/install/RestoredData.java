package org.mnemex.service.install;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.edition.EditionStore;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * Whether the data folder was just restored from a backup. The command that restores leaves a file
 * that says so, until every index has been brought up to date.
 */
@Component
public class RestoredData {
  private final DefinitionMapper definitions;
  private final EditionStore editions;
  private final JsonMapper json;
  private final String shard;
  private final Path file;
  private @Nullable Mark mark;

  /**
   * What the file says.
   *
   * @param backup name of the backup
   * @param taken its moment, ISO 8601, UTC
   * @param copy whether the installation of the backup goes on elsewhere, so that this one must not
   *     use its readers
   * @param editions the last edition of each index in the backup; null before the first start
   */
  public record Mark(
      String backup, String taken, boolean copy, @Nullable Map<String, Integer> editions) {}

  RestoredData(
      DefinitionMapper definitions, EditionStore editions, JsonMapper json, MnemexSettings settings)
      throws IOException {
    this.definitions = definitions;
    this.editions = editions;
    this.json = json;
    this.shard = shard(settings);
    this.file = settings.data().resolve("restored.json");
    this.mark = read();
  }

  private static String shard(MnemexSettings settings) {
    if (settings.role() == MnemexSettings.Role.SEARCH && settings.shard() != null) {
      throw new SettingsException(
          "mnemex.shard is for builders; a search node finds all shards in the store");
    }
    return settings.ownShard().toString();
  }

  private @Nullable Mark read() throws IOException {
    if (!Files.exists(file)) {
      return null;
    }
    try {
      return json.readValue(file, Mark.class);
    } catch (JacksonException e) {
      throw new IOException(file + " cannot be read; remove it if nothing was restored", e);
    }
  }

  /** What the file says; null if nothing was restored, or that was long ago. */
  public @Nullable Mark mark() {
    return mark;
  }

  /**
   * Identifies this installation at its sources. A copy of another one gets a name of its own.
   *
   * @throws SettingsException if the data folder has the records of another shard
   */
  String installation() {
    String built = definitions.shard();
    if (built != null && !built.equals(shard)) {
      throw new SettingsException(
          "this data folder has shard %s of its indexes, and mnemex.shard asks for %s; set --mnemex.data to a folder for that"
              .formatted(built, shard));
    }
    Mark read = mark;
    if (read != null && read.copy()) {
      definitions.forgetInstallation();
    }
    String known = definitions.installation();
    if (known == null) {
      known = UUID.randomUUID().toString().substring(0, 8);
      definitions.insertInstallation(known, shard);
    }
    if (read != null && read.editions() == null) {
      // The next start keeps that name, and knows which editions were there before this one.
      mark = new Mark(read.backup(), read.taken(), false, lastEditions());
      write(mark);
    }
    return known;
  }

  private Map<String, Integer> lastEditions() {
    Map<String, Integer> last = new TreeMap<>();
    for (DefinitionRow row : definitions.current()) {
      if (row.kind() == DefinitionKind.INDEX) {
        editions.of(row.keptAs()).forEach(edition -> last.put(row.name(), edition.number()));
      }
    }
    return last;
  }

  private void write(Mark other) {
    try {
      Path whole = file.resolveSibling("restored.json.tmp");
      Files.write(whole, json.writeValueAsBytes(other));
      Files.move(whole, file, StandardCopyOption.ATOMIC_MOVE);
    } catch (IOException e) {
      throw new UncheckedIOException("restored.json cannot be written", e);
    }
  }

  /** Notes that every index has been brought up to date. */
  public void isOver() throws IOException {
    Files.deleteIfExists(file);
    mark = null;
  }
}
