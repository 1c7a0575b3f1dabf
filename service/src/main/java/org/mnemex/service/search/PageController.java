package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.FieldTitle;
import org.mnemex.service.definition.ValueKind;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.sync.definition.FieldDefinition;
import org.springframework.http.CacheControl;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RestController;

/** What a search page needs to know of an endpoint before it searches. */
@Tag(name = "Search", description = "what frontends call")
@RestController
class PageController {
  private final Endpoints endpoints;

  PageController(Endpoints endpoints) {
    this.endpoints = endpoints;
  }

  /**
   * What a page shows of an endpoint.
   *
   * @param endpoint name of the endpoint
   * @param title its heading
   * @param orders title by name of an order, the usual one first
   * @param fields title by name of a shown field
   * @param labels what people read for a value, by field and value
   * @param languages languages with searched fields of their own, as BCP 47 tags
   */
  record PageView(
      String endpoint,
      String title,
      Map<String, String> orders,
      Map<String, String> fields,
      Map<String, Map<String, String>> labels,
      List<String> languages) {}

  @Operation(
      summary = "Describe an endpoint for a search page",
      description =
          "The titles of its orders and shown fields. The page itself is at /pages/{endpoint}.")
  @GetMapping("/search/{endpoint}/page")
  ResponseEntity<PageView> page(@PathVariable String endpoint) {
    Endpoints.Answering answering = endpoints.answering(endpoint);
    Fitted fitted = answering.endpoint();
    EndpointDefinition definition = fitted.definition();
    Map<String, String> orders = new LinkedHashMap<>();
    definition
        .sorts()
        .forEach(
            (name, keys) -> {
              // A page does not know where its visitor is.
              boolean near =
                  keys.stream()
                      .anyMatch(
                          key -> fitted.schema().field(key.field()).type() == FieldType.PLACE);
              if (!near) {
                orders.put(name, FieldTitle.of(name));
              }
            });
    Map<String, String> fields = new LinkedHashMap<>();
    definition.show().forEach(name -> fields.put(name, FieldTitle.of(name)));
    for (FieldDefinition field : answering.edition().definition().fields()) {
      if (!field.title().equals(field.field().name())) {
        fields.replace(field.field().name(), field.title());
      }
    }
    Map<String, Map<String, String>> labels = new LinkedHashMap<>();
    definition.facets().values().stream()
        .filter(one -> fields.containsKey(one.field()) && !one.labels().isEmpty())
        .filter(one -> one.kind() instanceof ValueKind)
        .forEach(one -> labels.put(one.field(), one.labels()));
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noCache().cachePrivate())
        .body(
            new PageView(
                endpoint,
                definition.title(),
                orders,
                fields,
                labels,
                List.copyOf(definition.languages().keySet())));
  }
}
