package org.mnemex.service.definition;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.List;
import java.util.function.Function;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/**
 * What definitions may refer to: some environment variables, and files below some folders. Whoever
 * applies a definition must not be able to read anything else of the machine through it.
 */
public final class References {
  /** No variables and no files. */
  public static final References NONE = new References(name -> null, List.of(), List.of());

  /**
   * Beginnings of the service's own secrets, whatever the operator allows. Spring accepts such a
   * variable with and without some of its underscores.
   */
  private static final List<String> OWN = List.of("MNEMEX_KEY", "MNEMEX_FIRST", "MNEMEX_TOKENS");

  private static final int MAX_SECRET_BYTES = 16 << 10;

  private final Function<String, @Nullable String> environment;
  private final List<String> variables;
  private final List<Path> folders;

  /**
   * @param environment the value of a variable, null if it is not set
   * @param variables names of allowed variables; a {@code *} at the end allows all that start so
   * @param folders folders of allowed files
   */
  public References(
      Function<String, @Nullable String> environment, List<String> variables, List<Path> folders) {
    this.environment = environment;
    this.variables = List.copyOf(variables);
    this.folders = List.copyOf(folders);
  }

  /**
   * The value of a variable.
   *
   * @throws IllegalArgumentException with a sentence, if it is not allowed or not set
   */
  String variable(String name) {
    if (OWN.stream().anyMatch(name::startsWith) || variables.stream().noneMatch(allows(name))) {
      throw new IllegalArgumentException(
          "definitions may not refer to environment variable %s; allowed are %s"
                  .formatted(name, variables.isEmpty() ? "none" : String.join(", ", variables))
              + " (setting mnemex.allow.variables)");
    }
    String value = environment.apply(name);
    if (value == null) {
      throw new IllegalArgumentException(
          "environment variable " + name + " is not set where the service runs");
    }
    return value;
  }

  private static Predicate<String> allows(String name) {
    return allowed ->
        allowed.endsWith("*")
            ? name.startsWith(allowed.substring(0, allowed.length() - 1))
            : name.equals(allowed);
  }

  /**
   * A file, which need not exist.
   *
   * @throws IllegalArgumentException with a sentence, if it is outside the allowed folders
   */
  Path file(String text) {
    try {
      Path file = Path.of(text);
      Path real = real(file.toAbsolutePath().normalize());
      for (Path folder : folders) {
        if (real.startsWith(real(folder.toAbsolutePath().normalize()))) {
          return file;
        }
      }
    } catch (InvalidPathException | IOException e) {
      throw new IllegalArgumentException("the path is not valid", e);
    }
    throw new IllegalArgumentException(
        "the file is outside the folders that definitions may refer to, %s (setting mnemex.allow.folders)"
            .formatted(folders));
  }

  /** Without symbolic links, as far as the path exists. */
  private static Path real(Path path) throws IOException {
    Path at = path;
    while (at != null && !Files.exists(at, LinkOption.NOFOLLOW_LINKS)) {
      at = at.getParent();
    }
    return at == null ? path : at.toRealPath().resolve(at.relativize(path)).normalize();
  }

  /**
   * The text of a secret's file.
   *
   * @throws IllegalArgumentException with a sentence, if it is not allowed or cannot be read
   */
  String secret(String text) {
    Path file = file(text);
    if (!Files.isRegularFile(file)) {
      throw new IllegalArgumentException("the file does not exist, or is not a regular file");
    }
    try (InputStream in = Files.newInputStream(file)) {
      byte[] bytes = in.readNBytes(MAX_SECRET_BYTES + 1);
      if (bytes.length > MAX_SECRET_BYTES) {
        throw new IllegalArgumentException(
            "the file has more than %,d bytes".formatted(MAX_SECRET_BYTES));
      }
      return new String(bytes, StandardCharsets.UTF_8).strip();
    } catch (IOException e) {
      throw new IllegalArgumentException("the file cannot be read", e);
    }
  }
}
