package org.mnemex.service.search;

import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import io.swagger.v3.core.converter.ModelConverters;
import io.swagger.v3.core.util.Json31;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.RangeKind;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.sync.definition.CleanStep;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.draft.PersonalColumns;

/**
 * Describes one endpoint as OpenAPI 3.1: its own parameters, the fields of its results with their
 * types, and examples from its records. Clients can be generated from it.
 */
final class EndpointContract {
  private static final ObjectMapper JSON = Json31.mapper();
  private static final String SCHEMAS = "#/components/schemas/";
  private static final String RECORD = "Record";
  private static final String FACETS = "facets";
  private static final int EXAMPLES = 5;

  private final Fitted endpoint;
  private final IndexDefinition index;
  private final SearchAnswer sample;
  private final ObjectNode schemas;

  private EndpointContract(Endpoints.Answering answering, SearchAnswer sample) {
    this.endpoint = answering.endpoint();
    this.index = answering.edition().definition();
    this.sample = sample;
    ModelConverters converters = ModelConverters.getInstance(true);
    Map<String, Object> all = new TreeMap<>();
    for (Class<?> type :
        List.of(
            SearchBody.class,
            SearchAnswer.class,
            SearchAnswer.Records.class,
            EndpointController.SuggestAnswer.class)) {
      all.putAll(converters.readAll(type));
    }
    this.schemas = JSON.valueToTree(all);
  }

  /**
   * The document.
   *
   * @param sample an answer with some results of this caller, for examples
   */
  static String of(Endpoints.Answering answering, SearchAnswer sample) {
    return new EndpointContract(answering, sample).document().toPrettyString();
  }

  private ObjectNode document() {
    EndpointDefinition definition = endpoint.definition();
    ObjectNode document = JSON.createObjectNode();
    document.put("openapi", "3.1.0");
    document
        .putObject("info")
        .put("title", definition.name())
        .put("version", Integer.toString(sample.asOf().edition()))
        .put("description", "Searches index '%s'.".formatted(index.name()));
    nameSchemas(definition);
    String path = "/search/" + definition.name();
    ObjectNode paths = document.putObject("paths");
    ObjectNode search = paths.putObject(path);
    ObjectNode get = operation(search, "get", "search", "Search", "SearchAnswer");
    ArrayNode parameters = get.putArray("parameters");
    schemas
        .path("SearchBody")
        .path("properties")
        .properties()
        .forEach(
            key -> {
              if (!key.getKey().equals(FACETS)) {
                parameter(parameters, "query", key.getKey(), (ObjectNode) key.getValue());
              }
            });
    definition
        .facets()
        .values()
        .forEach(facet -> parameter(parameters, "query", facet.name(), facet(facet)));
    ObjectNode post = operation(search, "post", "searchBy", "Search with a body", "SearchAnswer");
    post.putObject("requestBody")
        .put("required", true)
        .putObject("content")
        .putObject("application/json")
        .set("schema", reference("SearchBody"));

    ObjectNode suggest =
        operation(
            paths.putObject(path + "/suggest"), "get", "suggest", "Complete", "SuggestAnswer");
    parameter(suggest.putArray("parameters"), "query", "q", text("What was typed."));
    ObjectNode records =
        operation(
            paths.putObject(path + "/records"),
            "get",
            "records",
            "Get records by their keys",
            "SearchAnswerRecords");
    parameter(records.putArray("parameters"), "query", "key", texts("Keys of records."))
        .put("required", true);
    ObjectNode record =
        operation(
            paths.putObject(path + "/records/{key}"),
            "get",
            "record",
            "Get a record by its key",
            "SearchAnswerResult");
    parameter(record.putArray("parameters"), "path", "key", text("Key of the record."))
        .put("required", true);
    document.putObject("components").set("schemas", schemas);
    return document;
  }

  /** Puts the names and types of this endpoint into the schemas that all endpoints have. */
  private void nameSchemas(EndpointDefinition definition) {
    ObjectNode keys = properties("SearchBody");
    oneOf((ObjectNode) keys.path("sort").path("items"), definition.sorts().keySet());
    oneOf((ObjectNode) keys.path("group"), definition.groups().keySet());
    oneOf((ObjectNode) keys.path("fields").path("items"), definition.show());
    oneOf((ObjectNode) keys.path("counts").path("items"), definition.facets().keySet());
    oneOf((ObjectNode) keys.path("language"), definition.languages().keySet());
    for (String size : List.of("size", "top")) {
      ((ObjectNode) keys.path(size))
          .put("minimum", 0)
          .put("maximum", definition.pageMost())
          .put("default", definition.pageSize());
    }
    ObjectNode chosen = JSON.createObjectNode();
    chosen.put("type", "object").put("additionalProperties", false);
    ObjectNode choices = chosen.putObject("properties");
    ObjectNode counted = JSON.createObjectNode();
    counted.put("type", "object").put("additionalProperties", false);
    ObjectNode counts = counted.putObject("properties");
    definition
        .facets()
        .values()
        .forEach(
            facet -> {
              choices.set(facet.name(), facet(facet));
              counts.set(facet.name(), reference("SearchAnswerFacet"));
            });
    keys.set(FACETS, chosen);
    properties("SearchAnswer").set(FACETS, counted);
    properties("SearchAnswerResult").set("fields", reference(RECORD));
    schemas.set(RECORD, record());
  }

  private ObjectNode properties(String schema) {
    return (ObjectNode) schemas.path(schema).path("properties");
  }

  private static void oneOf(ObjectNode schema, Collection<String> names) {
    if (!names.isEmpty()) {
      ArrayNode all = schema.putArray("enum");
      names.forEach(all::add);
    }
  }

  /** The fields of a result; each may be missing. */
  private ObjectNode record() {
    ObjectNode record = JSON.createObjectNode();
    record.put("type", "object").put("description", "The shown fields of a record.");
    ObjectNode properties = record.putObject("properties");
    for (String name : endpoint.definition().show()) {
      FieldDefinition field = field(name);
      ObjectNode one = type(endpoint.schema().field(name));
      ObjectNode property = one;
      if (mayHaveSeveral(field)) {
        // One value stands without a list.
        property = JSON.createObjectNode();
        ArrayNode forms = property.putArray("anyOf");
        forms.add(one);
        forms.addObject().put("type", "array").set("items", one.deepCopy());
      }
      property.put("title", field.title());
      properties.set(name, property);
    }
    Map<String, Object> example = example();
    if (!example.isEmpty()) {
      record.putArray("examples").add(JSON.<ObjectNode>valueToTree(example));
    }
    return record;
  }

  private FieldDefinition field(String name) {
    return index.fields().stream()
        .filter(one -> one.field().name().equals(name))
        .findFirst()
        .orElseThrow();
  }

  /** Whether a record may have several values: from several rows, or from a step that splits. */
  private boolean mayHaveSeveral(FieldDefinition field) {
    return field.field().type() == FieldType.GROUP
        || field.from() != null && index.shape().isMany(field.from())
        || field.clean().stream().anyMatch(CleanStep.Split.class::isInstance);
  }

  private static ObjectNode type(Field field) {
    ObjectNode schema = JSON.createObjectNode();
    switch (field.type()) {
      case TEXT, EXACT, PATH -> schema.put("type", "string");
      case INTEGER -> schema.put("type", "integer").put("format", "int64");
      case DECIMAL -> schema.put("type", "string").put("format", "decimal");
      case DATE -> schema.put("type", "string").put("format", "date");
      case INSTANT -> schema.put("type", "string").put("format", "date-time");
      case BOOLEAN -> schema.put("type", "boolean");
      case PLACE -> {
        schema.put("type", "object");
        ObjectNode parts = schema.putObject("properties");
        parts.putObject("latitude").put("type", "number");
        parts.putObject("longitude").put("type", "number");
      }
      case GROUP -> {
        schema.put("type", "object");
        ObjectNode children = schema.putObject("properties");
        field.children().forEach(child -> children.set(child.ownName(), type(child)));
      }
    }
    return schema;
  }

  /** The first record of the sample, without what looks personal. */
  private Map<String, Object> example() {
    if (sample.results().isEmpty()) {
      return Map.of();
    }
    Map<String, Object> fields = new LinkedHashMap<>(sample.results().getFirst().fields());
    fields
        .keySet()
        .removeIf(
            name -> {
              FieldDefinition field = field(name);
              return field.field().type() == FieldType.GROUP || looksPersonal(field);
            });
    return PersonalColumns.leftOut(List.of(fields), List.copyOf(fields.keySet())).getFirst();
  }

  /** The values that may be chosen in a facet. */
  private ObjectNode facet(EndpointDefinition.Facet facet) {
    ObjectNode schema = texts(facet.title() + ".");
    ObjectNode items = (ObjectNode) schema.path("items");
    SearchAnswer.Facet counted = sample.facets().get(facet.name());
    List<String> values = List.of();
    if (facet.kind() instanceof RangeKind ranges) {
      // Others may be chosen as well.
      values = ranges.ranges();
    } else if (counted != null && !isPersonal(facet)) {
      values =
          counted.values().stream().limit(EXAMPLES).map(SearchAnswer.FacetValue::value).toList();
    }
    if (!values.isEmpty()) {
      ArrayNode examples = items.putArray("examples");
      values.forEach(examples::add);
    }
    return schema;
  }

  private boolean isPersonal(EndpointDefinition.Facet defined) {
    String counted = defined.field();
    return index.fields().stream()
        .anyMatch(field -> field.field().name().equals(counted) && looksPersonal(field));
  }

  private static boolean looksPersonal(FieldDefinition field) {
    return field.from() != null && PersonalColumns.isByName(field.from().column());
  }

  private static ObjectNode text(String description) {
    return JSON.createObjectNode().put("type", "string").put("description", description);
  }

  private static ObjectNode texts(String description) {
    ObjectNode schema = JSON.createObjectNode();
    schema.put("type", "array").put("description", description);
    schema.putObject("items").put("type", "string");
    return schema;
  }

  private static ObjectNode reference(String schema) {
    return JSON.createObjectNode().put("$ref", SCHEMAS + schema);
  }

  private static ObjectNode parameter(
      ArrayNode parameters, String in, String name, ObjectNode schema) {
    ObjectNode parameter = parameters.addObject();
    ObjectNode own = schema.deepCopy();
    parameter.put("name", name).put("in", in);
    if (own.has("description")) {
      parameter.set("description", own.remove("description"));
    }
    parameter.set("schema", own);
    return parameter;
  }

  private static ObjectNode operation(
      ObjectNode path, String method, String id, String summary, String answer) {
    ObjectNode operation = path.putObject(method);
    operation.put("operationId", id).put("summary", summary);
    ObjectNode responses = operation.putObject("responses");
    responses
        .putObject("200")
        .put("description", "The answer.")
        .putObject("content")
        .putObject("application/json")
        .set("schema", reference(answer));
    responses
        .putObject("default")
        .put("description", "A problem document (RFC 9457).")
        .putObject("content")
        .putObject("application/problem+json")
        .putObject("schema")
        .put("type", "object");
    return operation;
  }
}
