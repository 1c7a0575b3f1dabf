package org.mnemex.service.web;

import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.parameters.Parameter;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.util.List;
import java.util.Map;
import org.springdoc.core.customizers.GlobalOpenApiCustomizer;
import org.springframework.core.annotation.Order;
import org.springframework.core.io.ClassPathResource;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * Describes the parameters of the OpenAPI document, and gives parameters and request bodies
 * examples from the garden. A parameter means the same in every operation, so it is described once.
 */
@Component
@Order(GardenExamples.ORDER)
public class GardenExamples implements GlobalOpenApiCustomizer {
  /** After everything that adds parameters. */
  static final int ORDER = 100;

  /**
   * @param parameters by name: a description and an example
   * @param bodies examples by the name of the schema
   */
  private record Content(Map<String, List<Object>> parameters, Map<String, Object> bodies) {}

  private final Content content;

  GardenExamples(JsonMapper json) {
    try (InputStream in = new ClassPathResource("openapi/garden.json").getInputStream()) {
      content = json.readValue(in, Content.class);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  @Override
  public void customise(OpenAPI document) {
    document
        .getPaths()
        .values()
        .forEach(
            path ->
                path.readOperations().stream()
                    .filter(operation -> operation.getParameters() != null)
                    .flatMap(operation -> operation.getParameters().stream())
                    .forEach(this::describe));
    Map<String, Schema> schemas = document.getComponents().getSchemas();
    content.bodies().forEach((name, example) -> schemas.get(name).setExample(example));
  }

  private void describe(Parameter parameter) {
    List<Object> known = content.parameters().get(parameter.getName());
    if (known != null) {
      if (parameter.getDescription() == null) {
        parameter.description((String) known.getFirst());
      }
      parameter.example(known.getLast());
    }
  }
}
