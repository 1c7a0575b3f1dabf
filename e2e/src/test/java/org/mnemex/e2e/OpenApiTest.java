package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.net.URLEncoder;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.Analysed;
import org.mnemex.client.Applied;
import org.mnemex.client.AuditReport;
import org.mnemex.client.BackupContent;
import org.mnemex.client.Change;
import org.mnemex.client.ComparedEditions;
import org.mnemex.client.DefinitionEntry;
import org.mnemex.client.EditionEntry;
import org.mnemex.client.Explained;
import org.mnemex.client.FoundRecords;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.PlannedChanges;
import org.mnemex.client.QuarantinedRecord;
import org.mnemex.client.ScoreEntry;
import org.mnemex.client.Scored;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SourceCheck;
import org.mnemex.client.SourceStatements;
import org.mnemex.client.SourceTable;
import org.mnemex.client.Suggested;
import org.mnemex.client.TracedRecord;
import org.mnemex.client.TriedAnalyser;
import org.mnemex.client.VersionsCompared;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

/**
 * The OpenAPI document that is kept with the code, from which the console's types are made, is what
 * the service serves; and the client's records say the same.
 */
class OpenApiTest {
  private static final JsonMapper JSON =
      JsonMapper.builder().enable(SerializationFeature.INDENT_OUTPUT).build();

  /** The client's records, with the names that the service has for the same. */
  private static final Map<Class<?>, String> ANSWERS =
      Map.ofEntries(
          Map.entry(SearchAnswer.class, "SearchAnswer"),
          Map.entry(FoundRecords.class, "SearchAnswerRecords"),
          Map.entry(Explained.class, "Explanation"),
          Map.entry(Suggested.class, "TypedCompletionsCompletion"),
          Map.entry(IndexStatus.class, "IndexesIndexStatus"),
          Map.entry(Change.class, "ChangeTrace"),
          Map.entry(TracedRecord.class, "RecordTraceTraced"),
          Map.entry(AuditReport.class, "AuditsAuditView"),
          Map.entry(QuarantinedRecord.class, "QuarantineMapperQuarantineRow"),
          Map.entry(SourceCheck.class, "SourcesChecked"),
          Map.entry(SourceTable.class, "CatalogueTable"),
          Map.entry(SourceStatements.class, "SourcesStatements"),
          Map.entry(Analysed.class, "TryAnswer"),
          Map.entry(Applied.class, "Applied"),
          Map.entry(PlannedChanges.class, "PlanView"),
          Map.entry(EditionEntry.class, "EditionView"),
          Map.entry(ComparedEditions.class, "ComparedEditions"),
          Map.entry(Scored.class, "ScorecardsScored"),
          Map.entry(ScoreEntry.class, "ScoreMapperScoreRow"),
          Map.entry(DefinitionEntry.class, "DefinitionRow"),
          Map.entry(VersionsCompared.class, "VersionComparisonCompared"),
          Map.entry(BackupContent.class, "BackupContent"),
          Map.entry(TriedAnalyser.class, "FieldTrialTried"));

  /** Parameters whose values come from an earlier answer, so that none can be an example. */
  private static final Set<String> ANSWERED = Set.of("after", "true_for");

  /**
   * The garden has no scorecard, and a service without keys no key; backups are gone after a while.
   */
  private static final Set<String> UNMET =
      Set.of(
          "/api/scorecards/{scorecard}/history",
          "/api/scorecards/{scorecard}/score",
          "/api/backups/{backup}",
          "/api/backups/{backup}/files/{path}",
          "/api/keys/{id}/rotate",
          "/api/nodes/{node}",
          "/api/session");

  @TempDir private static Path folder;
  private static RunningService service;
  private static JsonNode served;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 200);
    service = RunningService.start(folder);
    service.applyGarden();
    served = JSON.readTree(service.get("/api/openapi.json").body());
  }

  @AfterAll
  static void stop() throws Exception {
    service.close();
  }

  @Test
  void theDocumentWithTheCodeIsWhatIsServed() throws Exception {
    Map<String, Object> parts = new TreeMap<>();
    served
        .properties()
        .forEach(
            part -> {
              if (!part.getKey().equals("servers")) {
                parts.put(part.getKey(), sorted(part.getValue()));
              }
            });
    Path kept = RunningService.root().resolve("docs/reference/openapi.json");
    String now = JSON.writeValueAsString(parts) + "\n";
    if (Boolean.getBoolean("mnemex.write")) {
      Files.writeString(kept, now);
    }
    assertThat(Files.readString(kept))
        .as("write it anew: mvn package -Dtest=OpenApiTest -Dmnemex.write=true")
        .isEqualTo(now);
  }

  @Test
  void everythingIsDescribed() {
    List<String> bare = new ArrayList<>();
    served
        .path("components")
        .path("schemas")
        .properties()
        .forEach(
            schema ->
                schema.getValue().path("properties").properties().stream()
                    .filter(property -> !property.getValue().has("description"))
                    .forEach(property -> bare.add(schema.getKey() + "." + property.getKey())));
    for (ApiOperation one : ApiOperation.all(served)) {
      String path = one.path();
      String method = one.method();
      JsonNode operation = one.content();
      if (!operation.has("summary")) {
        bare.add(method + " " + path);
      }
      operation
          .path("parameters")
          .forEach(
              parameter -> {
                boolean bound = ANSWERED.contains(parameter.path("name").asString());
                if (!parameter.has("description") || !parameter.has("example") && !bound) {
                  bare.add(method + " " + path + " " + parameter.path("name").asString());
                }
              });
    }
    assertThat(bare).isEmpty();
  }

  /** What the document gives as an example can be sent as it is. */
  @Test
  void everyExampleIsAccepted() {
    Map<String, String> refused = new LinkedHashMap<>();
    for (ApiOperation one : ApiOperation.all(served)) {
      String path = one.path();
      String method = one.method();
      JsonNode operation = one.content();
      String body = "null";
      JsonNode sent = operation.path("requestBody").path("content").path("application/json");
      String name = referred(sent.path("schema"));
      if (name != null) {
        JsonNode example = schema(name).path("example");
        assertThat(example.isMissingNode()).as(name).isFalse();
        body = example.toString();
      }
      if (method.equals("get") && !path.equals("/api/events") || name != null) {
        for (String call : calls(path, operation)) {
          HttpResponse<String> answer = service.send(method, call, body);
          if (answer.statusCode() >= 300 && !UNMET.contains(path)) {
            refused.put(method + " " + call, answer.statusCode() + " " + answer.body());
          }
        }
      }
    }
    assertThat(refused).isEmpty();
  }

  /** A call with all parameters; some of a search exclude others, so one with each of them. */
  private static List<String> calls(String path, JsonNode operation) {
    StringBuilder call = new StringBuilder();
    String filled = path;
    List<String> optional = new ArrayList<>();
    for (JsonNode parameter : operation.path("parameters")) {
      String name = parameter.path("name").asString();
      String value =
          URLEncoder.encode(parameter.path("example").asString(), StandardCharsets.UTF_8);
      if (parameter.path("in").asString().equals("path")) {
        filled = filled.replace("{" + name + "}", value);
      } else if (parameter.path("required").asBoolean()) {
        call.append(call.isEmpty() ? "?" : "&").append(name).append('=').append(value);
      } else if (parameter.has("example")) {
        optional.add(name + "=" + value);
      }
    }
    String base = filled + call;
    List<String> calls = new ArrayList<>(List.of(base));
    if (!path.startsWith("/search")) {
      return List.of(optional.isEmpty() ? base : with(base, String.join("&", optional)));
    }
    optional.forEach(one -> calls.add(with(base, one)));
    return calls;
  }

  private static String with(String call, String parameters) {
    return call + (call.contains("?") ? "&" : "?") + parameters;
  }

  private static Object sorted(JsonNode node) {
    if (node.isObject()) {
      Map<String, Object> members = new TreeMap<>();
      node.properties().forEach(one -> members.put(one.getKey(), sorted(one.getValue())));
      return members;
    }
    if (node.isArray()) {
      List<Object> items = new ArrayList<>();
      node.forEach(item -> items.add(sorted(item)));
      return items;
    }
    return node;
  }

  @Test
  void theClientsRecordsSayWhatTheServiceAnswers() {
    Map<String, String> wrong = new LinkedHashMap<>();
    ANSWERS.forEach((type, name) -> compare(type, name, name, wrong, new HashSet<>()));
    assertThat(wrong).isEmpty();
  }

  private static JsonNode schema(String name) {
    JsonNode schema = served.path("components").path("schemas").path(name);
    assertThat(schema.isObject()).as(name).isTrue();
    return schema;
  }

  private static void compare(
      Class<?> type, String name, String at, Map<String, String> wrong, Set<String> seen) {
    JsonNode schema = schema(name);
    if (!seen.add(name)) {
      return;
    }
    Set<String> required =
        StreamSupport.stream(schema.path("required").spliterator(), false)
            .map(JsonNode::asString)
            .collect(Collectors.toSet());
    for (RecordComponent component : type.getRecordComponents()) {
      String here = at + "." + component.getName();
      JsonNode property = schema.path("properties").path(component.getName());
      if (property.isMissingNode()) {
        wrong.put(here, "the service does not answer this");
        continue;
      }
      boolean optional = component.getAnnotatedType().isAnnotationPresent(Nullable.class);
      if (!optional
          && !component.getType().isPrimitive()
          && !required.contains(component.getName())) {
        wrong.put(here, "may be missing, and the client does not say so");
      }
      Class<?> within = recordIn(component.getGenericType());
      String inner = referred(property);
      if (within != null && inner != null) {
        compare(within, inner, here, wrong, seen);
      }
    }
  }

  /** The record that a type is, or is a list or map of. */
  private static @Nullable Class<?> recordIn(Type type) {
    if (type instanceof Class<?> plain) {
      return plain.isRecord() ? plain : null;
    }
    return type instanceof ParameterizedType of
        ? recordIn(of.getActualTypeArguments()[of.getActualTypeArguments().length - 1])
        : null;
  }

  private static @Nullable String referred(JsonNode property) {
    for (JsonNode at :
        List.of(property, property.path("items"), property.path("additionalProperties"))) {
      if (at.has("$ref")) {
        String ref = at.path("$ref").asString();
        return ref.substring(ref.lastIndexOf('/') + 1);
      }
    }
    return null;
  }
}
