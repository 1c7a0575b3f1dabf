package org.mnemex.e2e;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.StreamSupport;
import tools.jackson.databind.JsonNode;

/**
 * An operation of the OpenAPI document.
 *
 * @param method in lower case
 */
record ApiOperation(String path, String method, JsonNode content) {
  /** All operations, in the order of the document. */
  static List<ApiOperation> all(JsonNode document) {
    List<ApiOperation> all = new ArrayList<>();
    document
        .path("paths")
        .properties()
        .forEach(
            path ->
                path.getValue()
                    .properties()
                    .forEach(
                        one ->
                            all.add(
                                new ApiOperation(path.getKey(), one.getKey(), one.getValue()))));
    return all;
  }

  /** The method as HTTP writes it. */
  String verb() {
    return method.toUpperCase(Locale.ROOT);
  }

  /** Whether the table of routes lists it. */
  boolean hasRights() {
    return content.has("x-rights");
  }

  /** The rights that allow it; none if anybody may. */
  List<String> rights() {
    return StreamSupport.stream(content.path("x-rights").spliterator(), false)
        .map(JsonNode::asString)
        .toList();
  }
}
