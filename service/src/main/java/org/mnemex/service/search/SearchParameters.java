package org.mnemex.service.search;

import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.Operation;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.parameters.Parameter;
import java.util.List;
import java.util.Map;
import org.springdoc.core.customizers.GlobalOpenApiCustomizer;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;

/** Describes the parameters of searches in the OpenAPI document: they are the keys of a body. */
@Component
@Order(0)
class SearchParameters implements GlobalOpenApiCustomizer {
  private static final List<String> PATHS =
      List.of("/search", "/search/{endpoint}", "/search/{endpoint}/facets/{facet}");

  /** In a query string, facets stand under their own names. */
  private static final String FACETS = "facets";

  @Override
  @SuppressWarnings("rawtypes")
  public void customise(OpenAPI document) {
    Map<String, Schema> keys =
        document.getComponents().getSchemas().get(SearchBody.class.getSimpleName()).getProperties();
    for (String path : PATHS) {
      Operation get = document.getPaths().get(path).getGet();
      keys.forEach(
          (name, schema) -> {
            if (!name.equals(FACETS)) {
              get.addParametersItem(
                  new Parameter()
                      .in("query")
                      .name(name)
                      .description(schema.getDescription())
                      .schema(withoutDescription(schema)));
            }
          });
    }
  }

  private static Schema<?> withoutDescription(Schema<?> schema) {
    Schema<Object> plain = new Schema<>();
    plain.setTypes(schema.getTypes());
    plain.setFormat(schema.getFormat());
    plain.setItems(schema.getItems());
    return plain;
  }
}
