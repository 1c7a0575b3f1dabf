package org.mnemex.engine.inspect;

import java.util.Map;

/**
 * What a field takes. What results show of it is stored by document, together with other fields,
 * and is not counted.
 *
 * @param name its name
 * @param kind its type and how it is indexed, as in the segments
 * @param terms how many terms and distinct values it has, those of each segment counted
 * @param bytes by part
 */
public record FieldPart(String name, String kind, long terms, Map<Part, Long> bytes) {
  /** All its bytes. */
  public long allBytes() {
    return bytes.values().stream().mapToLong(Long::longValue).sum();
  }
}
