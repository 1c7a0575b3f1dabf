package org.mnemex.engine.document;

import java.util.Map;
import java.util.TreeMap;

/**
 * What the owner of an edition wants committed together with the index data, in the same manifest:
 * above all the source position. Opaque to the engine.
 *
 * @param values names and values, each at most 65,535 bytes of UTF-8
 */
public record Checkpoint(Map<String, String> values) {
  public static final Checkpoint NONE = new Checkpoint(Map.of());

  public Checkpoint {
    values = java.util.Collections.unmodifiableMap(new TreeMap<>(values));
  }
}
