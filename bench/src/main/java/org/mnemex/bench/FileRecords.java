package org.mnemex.bench;

import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Those of a file: lines of JSON, or CSV whose first line has the names (RFC 4180); all texts. */
record FileRecords(Path file) implements OwnRecords {
  /** So many records say which names there are. */
  private static final int SAMPLE = 1000;

  @Override
  public String name() {
    return file.getFileName().toString();
  }

  @Override
  public Map<String, String> columns() throws IOException {
    Map<String, String> columns = new LinkedHashMap<>();
    try (Stream<Map<String, String>> records = records()) {
      records
          .limit(SAMPLE)
          .flatMap(one -> one.keySet().stream())
          .forEach(name -> columns.put(name, TEXT));
    }
    return columns;
  }

  @Override
  public Stream<Map<String, String>> records() throws IOException {
    if (file.toString().endsWith(".csv")) {
      return CsvReader.builder().ofNamedCsvRecord(file).stream()
          .map(NamedCsvRecord::getFieldsAsMap);
    }
    JsonMapper json = new JsonMapper();
    BufferedReader lines = Files.newBufferedReader(file);
    return lines
        .lines()
        .onClose(() -> close(lines))
        .filter(line -> !line.isBlank())
        .map(line -> values(json.readTree(line)));
  }

  private static void close(BufferedReader lines) {
    try {
      lines.close();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private static Map<String, String> values(JsonNode record) {
    Map<String, String> values = new LinkedHashMap<>();
    for (Map.Entry<String, JsonNode> one : record.properties()) {
      String value = text(one.getValue());
      if (value != null) {
        values.put(one.getKey(), value);
      }
    }
    return values;
  }

  private static @Nullable String text(JsonNode value) {
    if (value.isNull()) {
      return null;
    }
    return value.isString() ? value.asString() : value.toString();
  }
}
