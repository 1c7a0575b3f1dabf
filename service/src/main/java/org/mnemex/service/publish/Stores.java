package org.mnemex.service.publish;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.store.FolderStore;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.S3Store;
import org.mnemex.service.SettingsException;
import org.mnemex.service.StoreSettings;

/** Opens the store that the settings name. */
final class Stores {
  private Stores() {}

  /**
   * Opens a store; a server is not asked yet.
   *
   * @throws SettingsException if a setting is missing or wrong
   */
  static ObjectStore open(StoreSettings settings) {
    return switch (settings.kind()) {
      case FOLDER -> new FolderStore(needed(settings.folder(), "folder"));
      case S3 ->
          new S3Store(
              new S3Store.Place(
                  settings.endpoint(),
                  settings.region(),
                  needed(settings.bucket(), "bucket"),
                  prefix(settings.prefix()),
                  settings.keyId(),
                  secret(settings)));
    };
  }

  private static <T> T needed(@Nullable T value, String name) {
    if (value == null) {
      throw new SettingsException("mnemex.store.%s is missing".formatted(name));
    }
    return value;
  }

  private static String prefix(String given) {
    return given.isEmpty() || given.endsWith("/") ? given : given + "/";
  }

  private static @Nullable String secret(StoreSettings settings) {
    Path file = settings.secretFile();
    if ((file == null) != (settings.keyId() == null)) {
      throw new SettingsException(
          "mnemex.store.key-id and mnemex.store.secret-file are set together, or neither is");
    }
    if (file == null) {
      return null;
    }
    try {
      return Files.readString(file).strip();
    } catch (IOException e) {
      throw new SettingsException("mnemex.store.secret-file %s cannot be read".formatted(file), e);
    }
  }
}
