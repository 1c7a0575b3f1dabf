package org.mnemex.bench.engine;

import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import java.util.zip.GZIPInputStream;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import tools.jackson.databind.json.JsonMapper;

/**
 * Real text: lines of JSON or CSV with names in its first line (RFC 4180), of which {@code title}
 * and {@code body} are indexed, or else the first value and all the others; or a dictionary in the
 * format of dictd (RFC 2229), such as Debian's package dict-gcide installs.
 */
final class TextLines {
  private static final Analyser ENGLISH =
      Objects.requireNonNull(Components.analysers().get("english"));
  private static final Analyser WORDS = Objects.requireNonNull(Components.analysers().get("words"));
  private static final String DIGITS =
      "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  private final List<String> titles = new ArrayList<>();
  private final List<String> bodies = new ArrayList<>();

  TextLines(Path file) throws IOException {
    if (file.toString().endsWith(".dict.dz")) {
      readDictionary(file);
    } else if (file.toString().endsWith(".csv")) {
      readCsv(file);
    } else {
      readJson(file);
    }
  }

  private void readJson(Path file) throws IOException {
    JsonMapper json = new JsonMapper();
    try (Stream<String> lines = Files.lines(file)) {
      lines
          .filter(line -> !line.isBlank())
          .map(json::readTree)
          .forEach(
              record -> {
                Map<String, String> texts = new LinkedHashMap<>();
                record
                    .properties()
                    .forEach(one -> texts.put(one.getKey(), one.getValue().asString("")));
                add(texts);
              });
    }
  }

  private void readCsv(Path file) throws IOException {
    try (Stream<NamedCsvRecord> records = CsvReader.builder().ofNamedCsvRecord(file).stream()) {
      records.map(NamedCsvRecord::getFieldsAsMap).forEach(this::add);
    }
  }

  private void add(Map<String, String> texts) {
    String first = texts.keySet().stream().findFirst().orElse("");
    String title = texts.containsKey("title") ? "title" : first;
    titles.add(texts.getOrDefault(title, ""));
    String body = texts.get("body");
    bodies.add(
        body != null
            ? body
            : texts.entrySet().stream()
                .filter(one -> !one.getKey().equals(title))
                .map(Map.Entry::getValue)
                .collect(Collectors.joining("\n")));
  }

  /** The index beside it has a headword, offset and length a line, in base 64 digits. */
  private void readDictionary(Path file) throws IOException {
    byte[] all;
    try (InputStream in = new GZIPInputStream(Files.newInputStream(file))) {
      all = in.readAllBytes();
    }
    Path index = Path.of(file.toString().replace(".dict.dz", ".index"));
    Set<Integer> seen = new HashSet<>();
    for (String line : Files.readAllLines(index)) {
      String[] parts = line.split("\t", -1);
      int offset = number(parts[1]);
      if (seen.add(offset)) {
        titles.add(parts[0]);
        bodies.add(new String(all, offset, number(parts[2]), StandardCharsets.UTF_8));
      }
    }
  }

  private static int number(String digits) {
    int value = 0;
    for (int i = 0; i < digits.length(); i++) {
      value = value * 64 + DIGITS.indexOf(digits.charAt(i));
    }
    return value;
  }

  static Schema schema() {
    return new Schema(
        List.of(
            new Field(
                "title",
                FieldType.TEXT,
                Set.of(Use.SEARCH, Use.SHOW, Use.SUGGEST),
                false,
                3,
                WORDS,
                WORDS),
            Field.of("body", FieldType.TEXT, ENGLISH, Use.SEARCH)));
  }

  int size() {
    return titles.size();
  }

  Document document(int n) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    fields.put("title", List.of(titles.get(n)));
    fields.put("body", List.of(bodies.get(n)));
    return new Document(
        "entry-%07d".formatted(n), fields, bodies.get(n).getBytes(StandardCharsets.UTF_8), n);
  }

  /** Words of one random text, so that they belong together as those of a question do. */
  List<String> words(Random random, int count) {
    Set<String> words = new LinkedHashSet<>();
    while (words.size() < count) {
      List<AnalysedToken> tokens = ENGLISH.tokens(bodies.get(random.nextInt(size())));
      for (int i = 0; i < count && !tokens.isEmpty() && words.size() < count; i++) {
        AnalysedToken token = tokens.get(random.nextInt(tokens.size()));
        if (token.text().length() > 2) {
          words.add(token.text());
        }
      }
    }
    return List.copyOf(words);
  }
}
