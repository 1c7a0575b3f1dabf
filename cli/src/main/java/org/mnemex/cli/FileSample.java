package org.mnemex.cli;

import java.io.BufferedReader;
import java.io.IOException;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Locale;
import tools.jackson.core.JacksonException;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * The beginning of a file of records.
 *
 * @param name the name of the file without its ending
 * @param format ndjson or csv
 * @param text whole lines
 */
record FileSample(String name, String format, String text) {
  private static final int MAX_CHARACTERS = 1 << 20;
  private static final int MAX_RECORDS = 2_000;

  /**
   * Reads it, however long the file is.
   *
   * @throws IOException if the file cannot be read, or is no list of records
   */
  static FileSample of(Path file) throws IOException {
    String whole = String.valueOf(file.getFileName());
    int point = whole.lastIndexOf('.');
    String name = point <= 0 ? whole : whole.substring(0, point);
    String ending = whole.substring(point + 1).toLowerCase(Locale.ROOT);
    try (BufferedReader in = Files.newBufferedReader(file, StandardCharsets.UTF_8)) {
      return switch (ending) {
        case "csv" -> new FileSample(name, "csv", lines(in));
        case "json" -> new FileSample(name, "ndjson", elements(in, file));
        default -> new FileSample(name, "ndjson", lines(in));
      };
    } catch (CharacterCodingException e) {
      throw new IOException(
          file
              + " is not text in UTF-8; convert it first: iconv -f LATIN1 -t UTF-8 "
              + file
              + " > "
              + name
              + "-utf8."
              + ending,
          e);
    }
  }

  private static String lines(BufferedReader in) throws IOException {
    StringBuilder text = new StringBuilder();
    char[] some = new char[1 << 16];
    for (int read = in.read(some); read >= 0; read = in.read(some)) {
      text.append(some, 0, read);
      if (text.length() >= MAX_CHARACTERS) {
        int end = text.lastIndexOf("\n");
        text.setLength(end < 0 ? text.length() : end + 1);
        break;
      }
    }
    return text.toString();
  }

  private static String elements(BufferedReader in, Path file) throws IOException {
    StringBuilder text = new StringBuilder();
    try (JsonParser parser = JsonMapper.shared().createParser(in)) {
      if (parser.nextToken() != JsonToken.START_ARRAY) {
        throw new IOException(file + " is not a list of records");
      }
      for (int i = 0;
          i < MAX_RECORDS
              && text.length() < MAX_CHARACTERS
              && parser.nextToken() == JsonToken.START_OBJECT;
          i++) {
        text.append(parser.readValueAs(JsonNode.class)).append('\n');
      }
    } catch (JacksonException e) {
      throw new IOException(file + " is not JSON: " + e.getOriginalMessage(), e);
    }
    return text.toString();
  }
}
