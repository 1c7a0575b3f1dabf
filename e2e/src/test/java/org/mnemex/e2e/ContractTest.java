package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import java.net.URLEncoder;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/** What an endpoint says of itself, compared with what it does. */
class ContractTest {
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final String SEARCH = "/search/plant-search";

  @TempDir private static Path folder;
  private static RunningService service;
  private static ObjectNode contract;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 300);
    service = RunningService.start(folder);
    service.applyGarden();
    contract = (ObjectNode) JSON.readTree(service.get(SEARCH + "/openapi.json").body());
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  /** What is wrong with a value, by a schema of the contract. */
  private static List<String> problems(String schema, JsonNode value) {
    ObjectNode root = JSON.createObjectNode();
    root.put("$ref", "#/components/schemas/" + schema);
    root.set("components", contract.path("components"));
    Schema checked =
        SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12).getSchema(root);
    return checked.validate(value).stream().map(Object::toString).toList();
  }

  private static JsonNode get(String path) throws Exception {
    HttpResponse<String> answer = service.get(path);
    assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
    return JSON.readTree(answer.body());
  }

  @Test
  void answersAreAsDescribed() throws Exception {
    for (String query :
        List.of(
            "?q=fern",
            "?size=100",
            "?q=rose&family=Rosaceae&group=family",
            "?total=false&highlights=false&counts=status&near=51.2,-0.3",
            "?q=fern+xylophone&relax=1")) {
      assertThat(problems("SearchAnswer", get(SEARCH + query))).as(query).isEmpty();
    }
    assertThat(problems("SuggestAnswer", get(SEARCH + "/suggest?q=f"))).isEmpty();
    assertThat(problems("SearchAnswerRecords", get(SEARCH + "/records?key=QB-00001&key=x")))
        .isEmpty();
    ObjectNode wrong = (ObjectNode) get(SEARCH + "?q=fern&size=1");
    ((ObjectNode) wrong.path("results").get(0).path("fields")).put("height_cm", "tall");
    ((ObjectNode) wrong.path("facets")).putObject("colour");
    assertThat(problems("SearchAnswer", wrong)).hasSizeGreaterThanOrEqualTo(2);
    assertThat(problems("SearchBody", JSON.readTree("{\"facets\": {\"height\": [\"..30\"]}}")))
        .isEmpty();
    for (String body :
        List.of(
            "{\"facets\": {\"colour\": [\"red\"]}}",
            "{\"sort\": [\"oldest\"]}",
            "{\"fields\": [\"donor\"]}",
            "{\"size\": 101}")) {
      assertThat(problems("SearchBody", JSON.readTree(body))).as(body).isNotEmpty();
      assertThat(service.post(SEARCH, body).statusCode()).as(body).isEqualTo(400);
    }
  }

  @Test
  void everyParameterAndItsExamplesAreAccepted() throws Exception {
    assertThat(contract.path("openapi").asString()).isEqualTo("3.1.0");
    assertThat(contract.path("paths").propertyNames())
        .containsExactlyInAnyOrder(
            SEARCH, SEARCH + "/suggest", SEARCH + "/records", SEARCH + "/records/{key}");
    List<String> names = new ArrayList<>();
    contract
        .path("paths")
        .path(SEARCH)
        .path("get")
        .path("parameters")
        .forEach(one -> names.add(one.path("name").asString()));
    assertThat(names).contains("q", "family", "status", "relax").doesNotHaveDuplicates();
    Map<String, JsonNode> facets =
        Map.of(
            "family", parameter("family"),
            "bed", parameter("bed"),
            "height", parameter("height"),
            "flowering", parameter("flowering"));
    for (Map.Entry<String, JsonNode> facet : facets.entrySet()) {
      JsonNode items = facet.getValue().path("schema").path("items");
      assertThat(items.path("examples").size()).as(facet.getKey()).isPositive();
      for (JsonNode example : items.path("examples")) {
        String value = URLEncoder.encode(example.asString(), StandardCharsets.UTF_8);
        assertThat(
                get(SEARCH + "?size=0&" + facet.getKey() + "=" + value).at("/total/count").asInt())
            .isPositive();
      }
    }
    assertThat(parameter("height").at("/schema/items/examples").size()).isEqualTo(4);
  }

  private static JsonNode parameter(String name) {
    for (JsonNode one : contract.path("paths").path(SEARCH).path("get").path("parameters")) {
      if (one.path("name").asString().equals(name)) {
        return one;
      }
    }
    throw new AssertionError("there is no parameter " + name);
  }

  @Test
  void examplesShowNothingPersonal() {
    JsonNode record = contract.at("/components/schemas/Record");
    assertThat(record.at("/properties/planted_on/format").asString()).isEqualTo("date");
    assertThat(record.at("/properties/collectors/anyOf").size()).isEqualTo(2);
    assertThat(record.at("/properties/name/type").asString()).isEqualTo("string");
    assertThat(problems("Record", record.at("/examples/0"))).isEmpty();
    assertThat(record.at("/examples/0").has("name")).isTrue();
    assertThat(record.at("/examples/0").has("seen")).isFalse();
  }
}
