package org.mnemex.engine.request;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A number and how it came about.
 *
 * @param what what the number is
 * @param value the number; the parts give exactly it, in the way that {@code how} says
 * @param matched whether the document has it; a part without may say why a document is missing
 * @param how {@link How} the parts make the value; null if there are none
 * @param parts what it is made of
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
