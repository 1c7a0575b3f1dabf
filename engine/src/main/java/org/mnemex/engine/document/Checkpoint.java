package org.mnemex.engine.document;

import java.util.Collections;
import java.util.Map;
import java.util.TreeMap;

/**
 * Values that the owner of an edition commits together with the index data, such as the source
 * position. Opaque to the engine.
 *
 * @param values names and values, each at most 65,535 bytes of UTF-8
 */
public record Checkpoint(Map<String, String> values) {
  public static final Checkpoint NONE = new Checkpoint(Map.of());

  public Checkpoint {
    values = Collections.unmodifiableMap(new TreeMap<>(values));
  }
}
