package org.mnemex.engine.request;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A number and how it was computed.
 *
 * @param what what the number is
 * @param value the number, which the parts give exactly
 * @param matched whether the document matches; a part that does not may explain why a document is
 *     missing
 * @param how how the parts give the value; null if there are none
 * @param parts the parts
 */
public record Explanation(
    String what, double value, boolean matched, @Nullable How how, List<Explanation> parts) {

  /** How parts make a value. */
  public enum How {
    /** Their sum, in order. */
    SUM,
    /** Their product, in order. */
    PRODUCT,
    /** The formula in {@link Explanation#what()} over them. */
    FORMULA
  }

  public Explanation {
    parts = List.copyOf(parts);
  }

  /** A number that is made of nothing else. */
  public static Explanation of(String what, double value) {
    return new Explanation(what, value, true, null, List.of());
  }
}
