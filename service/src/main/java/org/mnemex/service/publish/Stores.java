package org.mnemex.service.publish;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.Signatures;
import org.mnemex.publish.store.FolderStore;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.S3Store;
import org.mnemex.service.SettingsException;
import org.mnemex.service.StoreSettings;
import org.mnemex.service.TrustedServers;
import org.springframework.stereotype.Component;

/** Opens the store that the settings name; a server is not asked yet. */
@Component
final class Stores {
  private final TrustedServers trusted;

  Stores(TrustedServers trusted) {
    this.trusted = trusted;
  }

  /**
   * The store of a builder.
   *
   * @throws SettingsException if a setting is missing or wrong
   */
  OpenStore ofBuilder(StoreSettings settings) {
    if (settings.signerFile() != null) {
      throw new SettingsException(
          "mnemex.store.signer-file is for search nodes; a builder has mnemex.store.signing-key-file");
    }
    return signed(settings, "signing-key-file", settings.signingKeyFile(), Signatures::madeWith);
  }

  /**
   * The store of a search node.
   *
   * @throws SettingsException if a setting is missing or wrong
   */
  OpenStore ofNode(StoreSettings settings) {
    if (settings.signingKeyFile() != null) {
      throw new SettingsException(
          "mnemex.store.signing-key-file is for the builder alone; a search node has the public key"
              + " of it in mnemex.store.signer-file");
    }
    return signed(settings, "signer-file", settings.signerFile(), Signatures::checkedWith);
  }

  /** Reads a key. */
  private interface KeyReader {
    Signatures read(Path file) throws IOException;
  }

  private OpenStore signed(
      StoreSettings settings, String setting, @Nullable Path file, KeyReader reader) {
    Signatures signatures;
    try {
      signatures = file == null ? Signatures.none() : reader.read(file);
    } catch (IOException e) {
      throw new SettingsException(
          "mnemex.store.%s cannot be used: %s".formatted(setting, e.getMessage()), e);
    }
    return new OpenStore(open(settings), signatures);
  }

  private ObjectStore open(StoreSettings settings) {
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
                  secret(settings)),
              trusted.managers("mnemex.store.ssl-bundle", settings.sslBundle()));
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
