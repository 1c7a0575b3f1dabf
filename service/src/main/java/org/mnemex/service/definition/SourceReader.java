package org.mnemex.service.definition;

import java.nio.file.Path;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.AuditPlan;
import org.mnemex.sync.definition.Masks;
import org.mnemex.sync.definition.Secret;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.definition.Tls;

/**
 * Reads the definition of a source. References are resolved here and kept in memory only; the
 * definition is stored as written.
 */
final class SourceReader {
  private static final Pattern REFERENCE = Pattern.compile("\\$\\{([A-Za-z_][A-Za-z0-9_]*)}");
  private static final Pattern RETAINED = Pattern.compile("(\\d{1,9}) ?(MB|GB|changes)");
  private static final Pattern HOST =
      Pattern.compile(
          "[A-Za-z0-9][A-Za-z0-9._-]{0,252}|[0-9A-Fa-f:.]{2,45}|\\[[0-9A-Fa-f:.]{2,45}]");
  private static final Pattern NAME = Pattern.compile("[^\\p{Cntrl}]{1,128}");
  private static final int MAX_RATE = 1_000_000;
  private static final int MAX_PORT = 65_535;

  private final YamlMap map;
  private final String name;
  private final References references;
  private final Masks masks = new Masks();

  SourceReader(YamlMap map, String name, References references) {
    this.map = map;
    this.name = name;
    this.references = references;
  }

  SourceDefinition read() {
    String kind = map.text("kind");
    if (kind.equals("push")) {
      return new SourceDefinition.Push(name, SourceDefinition.Following.PREPARING);
    }
    SourceDefinition.Following following =
        new SourceDefinition.Following(
            map.wordOr("prepare", "ask", Set.of("ask", "automatic")).equals("automatic"),
            map.integerOr("records_per_second", 0, 0, MAX_RATE),
            capture(kind.equals("sqlite")),
            mostRetained(kind));
    if (kind.equals("sqlite")) {
      return new SourceDefinition.Sqlite(name, file(), following);
    }
    SourceDefinition.Kind server = SourceDefinition.Kind.valueOf(kind.toUpperCase(Locale.ROOT));
    return new SourceDefinition.Server(
        name,
        server,
        host(),
        port(server.port()),
        place("database", map.text("database")),
        server.schema().isEmpty() ? "" : place("schema", textOr("schema", server.schema())),
        place("user", map.text("user")),
        password(),
        following,
        tls(),
        masks);
  }

  private SourceDefinition.Capture capture(boolean file) {
    String word =
        file
            ? map.wordOr("capture", "journal", Set.of("journal", "poll"))
            : map.wordOr("capture", "log", Set.of("log", "journal", "poll"));
    if (word.equals("log")) {
      return new SourceDefinition.Usual();
    }
    if (word.equals("journal")) {
      return file ? new SourceDefinition.Usual() : new SourceDefinition.Journal();
    }
    YamlMap columns = map.map("watermarks");
    Map<String, String> watermarks = new LinkedHashMap<>();
    columns.allKeys().forEach(table -> watermarks.put(table, columns.text(table)));
    return new SourceDefinition.Poll(
        watermarks, time("every", "10s"), time("overlap", "1m"), zone());
  }

  /** In the database's unit: bytes of PostgreSQL's log, or lines of a journal. */
  private long mostRetained(String kind) {
    String text = map.textOr("most_retained", null);
    if (text == null) {
      return 0;
    }
    String capture = map.textOr("capture", kind.equals("sqlite") ? "journal" : "log");
    boolean log = kind.equals("postgres") && "log".equals(capture);
    if (!log && !"journal".equals(capture)) {
      throw map.problem(
          "most_retained", "the database retains nothing for this kind of capture", null);
    }
    Matcher size = RETAINED.matcher(text);
    if (!size.matches() || log == size.group(2).equals("changes")) {
      throw map.problem(
          "most_retained",
          "'%s' is not a limit like %s".formatted(text, log ? "20 GB" : "1000000 changes"),
          null);
    }
    long unit =
        switch (size.group(2)) {
          case "MB" -> 1_000_000L;
          case "GB" -> 1_000_000_000L;
          default -> 1L;
        };
    return Long.parseLong(size.group(1)) * unit;
  }

  private Duration time(String key, String usual) {
    try {
      return AuditPlan.time(textOr(key, usual));
    } catch (IllegalArgumentException e) {
      throw map.problem(key, String.valueOf(e.getMessage()), null);
    }
  }

  private ZoneId zone() {
    String zone = textOr("zone", "UTC");
    try {
      return ZoneId.of(zone);
    } catch (DateTimeException e) {
      throw map.problem(
          "zone", "'" + zone + "' is not a time zone like UTC or Europe/London", null);
    }
  }

  private String textOr(String key, String otherwise) {
    return map.has(key) ? map.text(key) : otherwise;
  }

  private int port(int usual) {
    try {
      int port = Integer.parseInt(resolve("port", textOr("port", Integer.toString(usual))));
      if (port > 0 && port <= MAX_PORT) {
        return port;
      }
    } catch (NumberFormatException e) {
      // Reported below.
    }
    throw map.problem(
        "port", "'%s' is not a port from 1 to %d".formatted(map.text("port"), MAX_PORT), null);
  }

  /** A value cannot add anything to the address of a connection. */
  private String host() {
    String host = resolve("host", textOr("host", "127.0.0.1"));
    if (!HOST.matcher(host).matches()) {
      throw map.problem(
          "host", "'%s' is not a host name or an address".formatted(map.text("host")), null);
    }
    return host.contains(":") && !host.startsWith("[") ? "[" + host + "]" : host;
  }

  private String place(String key, String text) {
    String value = resolve(key, text);
    if (!NAME.matcher(value).matches()) {
      throw map.problem(key, "a name has 1 to 128 characters and no control characters", null);
    }
    return value;
  }

  private Path file() {
    try {
      return references.file(resolve("file", map.text("file")));
    } catch (IllegalArgumentException e) {
      throw map.problem("file", String.valueOf(e.getMessage()), null);
    }
  }

  private Tls tls() {
    String word = map.textOr("tls", "");
    Tls.Mode mode =
        Arrays.stream(Tls.Mode.values())
            .filter(one -> one.word().equals(word))
            .findFirst()
            .orElse(Tls.Mode.USUAL);
    Path authorities = certificates("ca_file", mode);
    Path certificate = certificates("certificate_file", mode);
    Path key = certificates("key_file", mode);
    if ((certificate == null) != (key == null)) {
      throw map.problem(
          certificate == null ? "key_file" : "certificate_file",
          "a client certificate needs both 'certificate_file' and 'key_file'",
          null);
    }
    return new Tls(
        mode,
        authorities,
        certificate == null || key == null ? null : new Tls.Identity(certificate, key));
  }

  private @Nullable Path certificates(String name, Tls.Mode mode) {
    String file = map.textOr(name, null);
    if (file == null) {
      return null;
    }
    if (!mode.verifies()) {
      throw map.problem(name, "only 'tls: verify-ca' and 'tls: verify-full' have this", null);
    }
    try {
      return references.file(resolve(name, file));
    } catch (IllegalArgumentException e) {
      throw map.problem(name, String.valueOf(e.getMessage()), null);
    }
  }

  private Secret password() {
    String file = map.textOr("password_file", null);
    String password = map.textOr("password", null);
    if (file != null && password != null) {
      throw map.problem("password", "a source has 'password' or 'password_file', not both", null);
    }
    if (file != null) {
      try {
        return new Secret(references.secret(resolve("password_file", file)));
      } catch (IllegalArgumentException e) {
        throw map.problem("password_file", String.valueOf(e.getMessage()), null);
      }
    }
    if (password == null) {
      return new Secret("");
    }
    if (!REFERENCE.matcher(password).matches()) {
      throw map.problem(
          "password",
          "a password must not stand in a definition; write ${NAME} and set the environment"
              + " variable NAME where the service runs, or use 'password_file'",
          null);
    }
    return new Secret(resolve("password", password));
  }

  private String resolve(String key, String text) {
    Matcher reference = REFERENCE.matcher(text);
    StringBuilder out = new StringBuilder();
    while (reference.find()) {
      String value;
      try {
        value = references.variable(reference.group(1));
      } catch (IllegalArgumentException e) {
        throw map.problem(key, String.valueOf(e.getMessage()), null);
      }
      masks.add(value, reference.group());
      reference.appendReplacement(out, Matcher.quoteReplacement(value));
    }
    return reference.appendTail(out).toString();
  }
}
