package org.mnemex.client;

import java.io.BufferedReader;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.function.LongUnaryOperator;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * A file of records in portions, each of which is a file of its own: lines of JSON, a list of
 * objects, or a table whose first line is repeated. Only one portion is in memory.
 */
final class FilePortions implements AutoCloseable {
  private static final int RECORDS = 2_000;
  private static final int CHARACTERS = 1 << 20;
  private static final String LINES = "application/x-ndjson";

  private final BufferedReader in;
  private final boolean isTable;
  private final @Nullable JsonParser list;
  private String header = "";
  private long line = 1;

  /** What ends a list; told when the records before it are taken. */
  private @Nullable JacksonException broken;

  /**
   * A portion.
   *
   * @param type its media type
   * @param lineOf the line of the file where a line of the portion is from
   */
  record Portion(String type, String text, LongUnaryOperator lineOf) {}

  private FilePortions(BufferedReader in, boolean isTable, @Nullable JsonParser list) {
    this.in = in;
    this.isTable = isTable;
    this.list = list;
  }

  /**
   * Opens a file.
   *
   * @param file a table if its name ends with {@code .csv}, a list if it ends with {@code .json},
   *     otherwise lines of JSON
   */
  static FilePortions open(Path file, ObjectMapper json) throws IOException {
    String name = file.toString().toLowerCase(Locale.ROOT);
    BufferedReader in = Files.newBufferedReader(file, StandardCharsets.UTF_8);
    JsonParser list = name.endsWith(".json") ? json.createParser(in) : null;
    FilePortions portions = new FilePortions(in, name.endsWith(".csv"), list);
    try {
      if (portions.isTable) {
        portions.header = String.valueOf(portions.record());
      } else if (list != null && list.nextToken() != JsonToken.START_ARRAY) {
        throw new IllegalArgumentException(file + " is not a list of records");
      }
    } catch (IOException | RuntimeException e) {
      in.close();
      throw e;
    }
    return portions;
  }

  /** The next portion, or null after the last one. */
  @Nullable Portion next() throws IOException {
    return list == null ? nextLines() : nextOf(list);
  }

  private @Nullable Portion nextLines() throws IOException {
    StringBuilder text = new StringBuilder(header);
    long before = line - 1 - header.lines().count();
    int records = 0;
    for (String record = record(); record != null; record = record()) {
      text.append(record);
      if (++records == RECORDS || text.length() > CHARACTERS) {
        break;
      }
    }
    return records == 0
        ? null
        : new Portion(isTable ? "text/csv" : LINES, text.toString(), at -> before + at);
  }

  /** A line with its end; of a table as many as belong to a record (RFC 4180, section 2). */
  private @Nullable String record() throws IOException {
    StringBuilder text = new StringBuilder();
    boolean quoted = false;
    for (int c = in.read(); c >= 0; c = in.read()) {
      text.append((char) c);
      quoted ^= isTable && c == '"';
      if (c == '\n') {
        line++;
        if (!quoted || text.length() > CHARACTERS) {
          break;
        }
      }
    }
    return text.isEmpty() ? null : text.toString();
  }

  private @Nullable Portion nextOf(JsonParser list) {
    if (broken != null) {
      throw broken;
    }
    StringBuilder text = new StringBuilder();
    List<Long> lines = new ArrayList<>();
    try {
      while (lines.size() < RECORDS && text.length() <= CHARACTERS) {
        JsonToken token = list.nextToken();
        if (token == null || token == JsonToken.END_ARRAY) {
          break;
        }
        long at = list.currentTokenLocation().getLineNr();
        text.append(list.readValueAs(JsonNode.class).toString()).append('\n');
        lines.add(at);
      }
    } catch (JacksonException e) {
      if (lines.isEmpty()) {
        throw e;
      }
      broken = e;
    }
    return lines.isEmpty()
        ? null
        : new Portion(LINES, text.toString(), at -> lines.get((int) at - 1));
  }

  @Override
  public void close() throws IOException {
    in.close();
  }
}
