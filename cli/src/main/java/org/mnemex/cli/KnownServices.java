package org.mnemex.cli;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;

/**
 * The services that somebody works with, from a file of their own:
 *
 * <pre>{@code
 * usual: garden
 * services:
 *   garden: {url: http://127.0.0.1:7077}
 *   production: {url: https://search.example.org, key_file: production.key}
 * }</pre>
 *
 * @param file where they are from, for messages
 * @param usual the name of the one that is called if nobody says which; or null
 * @param services by name
 */
record KnownServices(Path file, @Nullable String usual, Map<String, Known> services) {
  /**
   * A service.
   *
   * @param keyFile the file with the key to call it with; or null
   * @param caFile the file with the certificates of the authorities to trust; or null
   */
  record Known(URI url, @Nullable Path keyFile, @Nullable Path caFile) {
    /** What is called at an address only. */
    static Known at(URI url) {
      return new Known(url, null, null);
    }
  }

  /** {@code services.yaml} in the folder of settings (XDG Base Directory Specification). */
  static Path usualFile(Map<String, String> environment) {
    String settings = environment.get("XDG_CONFIG_HOME");
    Path folder =
        settings == null || settings.isBlank()
            ? Path.of(System.getProperty("user.home"), ".config")
            : Path.of(settings);
    return folder.resolve("mnemex").resolve("services.yaml");
  }

  /**
   * Reads a file; without it, no services are known.
   *
   * @throws IllegalArgumentException if it is not what it should be
   */
  static KnownServices read(Path file) {
    if (!Files.exists(file)) {
      return new KnownServices(file, null, Map.of());
    }
    try {
      Object read = new Load(LoadSettings.builder().build()).loadFromString(Files.readString(file));
      Map<?, ?> all = map(file, "the file", read);
      checkKeys(file, "the file", all, Set.of("usual", "services"));
      Map<String, Known> services = new TreeMap<>();
      for (Map.Entry<?, ?> entry : map(file, "services", all.get("services")).entrySet()) {
        String name = String.valueOf(entry.getKey());
        services.put(name, known(file, name, map(file, name, entry.getValue())));
      }
      String usual = all.get("usual") == null ? null : String.valueOf(all.get("usual"));
      return new KnownServices(file, usual, services);
    } catch (IOException e) {
      throw new UncheckedIOException(file + " cannot be read", e);
    } catch (YamlEngineException e) {
      throw new IllegalArgumentException(file + " is not YAML: " + e.getMessage(), e);
    }
  }

  private static Known known(Path file, String name, Map<?, ?> said) {
    checkKeys(file, name, said, Set.of("url", "key_file", "ca_file"));
    Object url = said.get("url");
    if (url == null) {
      throw new IllegalArgumentException("%s: service '%s' has no url".formatted(file, name));
    }
    return new Known(
        URI.create(String.valueOf(url)),
        beside(file, said.get("key_file")),
        beside(file, said.get("ca_file")));
  }

  private static @Nullable Path beside(Path file, @Nullable Object said) {
    return said == null ? null : file.resolveSibling(String.valueOf(said));
  }

  /** A key with a typing error would be no key at all. */
  private static void checkKeys(Path file, String what, Map<?, ?> said, Set<String> allowed) {
    for (Object key : said.keySet()) {
      if (!allowed.contains(String.valueOf(key))) {
        throw new IllegalArgumentException(
            "%s: %s has no key '%s'; it has %s"
                .formatted(file, what, key, String.join(", ", new TreeSet<>(allowed))));
      }
    }
  }

  private static Map<?, ?> map(Path file, String what, @Nullable Object read) {
    if (read instanceof Map<?, ?> map) {
      return map;
    }
    throw new IllegalArgumentException(
        "%s: %s must be keys with values, as the guide shows under 'Several services'"
            .formatted(file, what));
  }

  /**
   * A service by its name; the usual one without a name, or null if there is none.
   *
   * @throws IllegalArgumentException if the name is not known
   */
  @Nullable Known find(@Nullable String name) {
    String wanted = name == null ? usual : name;
    if (wanted == null) {
      return null;
    }
    Known known = services.get(wanted);
    if (known == null) {
      throw new IllegalArgumentException(
          "service '%s' is not in %s; it has: %s"
              .formatted(
                  wanted,
                  file,
                  services.isEmpty() ? "none" : String.join(", ", services.keySet())));
    }
    return known;
  }
}
