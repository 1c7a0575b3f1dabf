package org.mnemex.bench;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.mnemex.client.MnemexClient;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import org.mnemex.garden.server.Folders;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * How fast the engine alone indexes the documents of the index over one table, which are held in
 * memory: nothing is read, mapped or compared.
 */
final class PlainIndexing {
  private static final Pattern TAG = Pattern.compile("<[^>]*>");
  private static final Pattern SPACES = Pattern.compile("\\s+");
  private static final JsonMapper JSON = JsonMapper.shared();

  private PlainIndexing() {}

  /**
   * Documents a second, on one thread, until they are on the disk.
   *
   * @param index over accessions, as it is filled
   */
  static double rate(MnemexClient client, String index) throws IOException {
    List<Document> documents = new ArrayList<>();
    try (InputStream records = client.export(index);
        BufferedReader lines =
            new BufferedReader(new InputStreamReader(records, StandardCharsets.UTF_8))) {
      for (String line = lines.readLine(); line != null; line = lines.readLine()) {
        documents.add(document(line));
      }
    }
    // The second run finds the code compiled, as a long fill does.
    index(documents);
    return documents.size() / index(documents);
  }

  private static double index(List<Document> documents) throws IOException {
    Path folder = Files.createTempDirectory("mnemex-bench");
    try {
      long start = System.nanoTime();
      try (EditionFolder edition = EditionFolder.open(folder, schema())) {
        for (Document document : documents) {
          edition.put(document);
        }
        edition.refresh(Checkpoint.NONE);
        edition.commit();
      }
      return (System.nanoTime() - start) / 1e9;
    } finally {
      Folders.delete(folder);
    }
  }

  /** The fields of {@link SyncBench#DEFINITIONS}. */
  private static Schema schema() {
    Analyser english = Objects.requireNonNull(Components.analysers().get("english"));
    return new Schema(
        List.of(
            Field.of("status", FieldType.EXACT, null, Use.FILTER, Use.SHOW),
            Field.of("height_cm", FieldType.INTEGER, null, Use.FILTER, Use.SHOW),
            Field.of("planted_on", FieldType.DATE, null, Use.FILTER, Use.SHOW),
            Field.of("notes", FieldType.TEXT, english, Use.SEARCH, Use.SHOW)));
  }

  private static Document document(String line) {
    JsonNode told = JSON.readTree(line);
    JsonNode row = told.path("record");
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    put(fields, "status", row.path("status"), JsonNode::asString);
    put(fields, "height_cm", row.path("height_cm"), JsonNode::asLong);
    put(fields, "planted_on", row.path("planted_on"), day -> LocalDate.parse(day.asString()));
    put(
        fields,
        "notes",
        row.path("notes"),
        text ->
            SPACES.matcher(TAG.matcher(text.asString()).replaceAll(" ")).replaceAll(" ").strip());
    String key = told.path("key").asString();
    return new Document(key, fields, JSON.writeValueAsBytes(row), key.hashCode());
  }

  private static void put(
      Map<String, List<Object>> fields,
      String name,
      JsonNode value,
      Function<JsonNode, Object> read) {
    if (!value.isMissingNode() && !value.isNull()) {
      fields.put(name, List.of(read.apply(value)));
    }
  }
}
