package org.mnemex.client;

import java.nio.charset.StandardCharsets;
import java.util.List;
import tools.jackson.core.type.TypeReference;

/**
 * A list that the service has; asked for when it is read.
 *
 * @param <T> what it lists
 */
public final class Listed<T> {
  private final Calls calls;
  private final String path;
  private final TypeReference<List<T>> type;

  Listed(Calls calls, String path, TypeReference<List<T>> type) {
    this.calls = calls;
    this.path = path;
    this.type = type;
  }

  public List<T> rows() {
    return calls.get(path, type);
  }

  /** The list as a text for other programs. */
  public String as(TableFormat format) {
    return new String(
        calls.send(calls.request(path).setHeader("Accept", format.mediaType()).GET().build()),
        StandardCharsets.UTF_8);
  }
}
