package org.mnemex.service.web;

import io.swagger.v3.oas.models.OpenAPI;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.mnemex.service.access.Right;
import org.mnemex.service.access.Routes;
import org.springdoc.core.customizers.GlobalOpenApiCustomizer;
import org.springframework.stereotype.Component;

/** Says in the OpenAPI document which rights each operation needs; none: anybody may call it. */
@Component
public class RouteRights implements GlobalOpenApiCustomizer {
  private static final String EXTENSION = "x-rights";

  @Override
  public void customise(OpenAPI document) {
    Map<String, List<String>> rights =
        Routes.all().stream()
            .collect(
                Collectors.toMap(
                    route -> route.method() + " " + route.path().replace("{*", "{"),
                    route -> route.rights().stream().sorted().map(Right::word).toList()));
    document
        .getPaths()
        .forEach(
            (path, item) ->
                item.readOperationsMap()
                    .forEach(
                        (method, operation) -> {
                          List<String> known = rights.get(method + " " + path);
                          if (known != null) {
                            operation.addExtension(EXTENSION, known);
                          }
                        }));
  }
}
