package org.mnemex.bench.engine;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.Set;
import java.util.stream.Stream;
import org.mnemex.bench.Vocabulary;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;

/**
 * Made-up documents of about 100 words with six facets. Words follow the law of Zipf and
 * Mandelbrot, as in natural text: the word of rank r has a share in proportion to {@code 1 / (r +
 * 2.7)^1.07}. A document repeats some of its rarer words, as texts do that have a subject. The same
 * number always gives the same document.
 */
final class Corpus {
  static final int WORDS = 100;
  private static final Analyser ANALYSER =
      Objects.requireNonNull(Components.analysers().get("words"));
  private static final String[] COLOURS = {
    "white", "cream", "yellow", "orange", "red", "pink", "purple", "blue", "green", "brown"
  };

  private final Vocabulary vocabulary = new Vocabulary();

  static Schema schema() {
    return new Schema(
        List.of(
            new Field(
                "title",
                FieldType.TEXT,
                Set.of(Use.SEARCH, Use.SHOW, Use.SUGGEST),
                false,
                3,
                ANALYSER,
                ANALYSER),
            Field.of("body", FieldType.TEXT, ANALYSER, Use.SEARCH),
            Field.of("family", FieldType.EXACT, null, Use.FACET, Use.FILTER),
            Field.of("bed", FieldType.EXACT, null, Use.FACET),
            Field.of("colour", FieldType.EXACT, null, Use.FACET),
            Field.of("year", FieldType.INTEGER, null, Use.FACET, Use.SORT),
            Field.decimal("price", 2, Use.FACET, Use.SORT),
            Field.of("planted", FieldType.DATE, null, Use.FACET, Use.SORT)));
  }

  /** The word of a rank, 0 for the most frequent. */
  String word(int rank) {
    return vocabulary.word(rank);
  }

  /** Document number {@code n}, from 0. */
  Document document(int n) {
    Random random = new Random(n * 0x9E3779B97F4A7C15L + 1);
    String title = text(random, 4 + random.nextInt(5));
    String body = text(random, 60 + random.nextInt(70));
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    fields.put("title", List.of(title));
    fields.put("body", List.of(body));
    fields.put(
        "family", List.of("family " + (int) (150 * random.nextDouble() * random.nextDouble())));
    fields.put("bed", List.of("bed " + random.nextInt(4_000)));
    List<Object> colours = new ArrayList<>();
    for (int i = random.nextInt(3); i >= 0; i--) {
      colours.add(COLOURS[random.nextInt(COLOURS.length)]);
    }
    fields.put("colour", colours);
    fields.put("year", List.of(1900L + random.nextInt(126)));
    fields.put("price", List.of(BigDecimal.valueOf(100 + random.nextInt(9_900), 2)));
    fields.put("planted", List.of(LocalDate.of(1990, 1, 1).plusDays(random.nextInt(13_000))));
    byte[] record = ("{\"title\":\"" + title + "\"}").getBytes(StandardCharsets.UTF_8);
    return new Document("record-%08d".formatted(n), fields, record, n);
  }

  private String text(Random random, int words) {
    StringBuilder text = new StringBuilder(8 * words);
    String subject = vocabulary.word(random);
    for (int i = 0; i < words; i++) {
      String word = random.nextInt(25) == 0 ? subject : vocabulary.word(random);
      text.append(i == 0 ? "" : random.nextInt(12) == 0 ? ", " : " ");
      text.append(i == 0 ? capitalised(word) : word);
    }
    return text.append('.').toString();
  }

  private static String capitalised(String word) {
    return Character.toUpperCase(word.charAt(0)) + word.substring(1);
  }

  /** Bytes of a document's text, as UTF-8. */
  static long textBytes(Document document) {
    long bytes = 0;
    for (String field : List.of("title", "body")) {
      for (Object value : document.fields().getOrDefault(field, List.of())) {
        bytes += value.toString().length();
      }
    }
    return bytes;
  }

  /** Removes the folder of an edition. */
  static void delete(Path folder) throws IOException {
    try (Stream<Path> files = Files.list(folder)) {
      for (Path file : files.toList()) {
        Files.deleteIfExists(file);
      }
    }
    Files.deleteIfExists(folder);
  }
}
