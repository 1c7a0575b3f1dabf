package org.mnemex.sync.definition;

import java.util.LinkedHashMap;
import java.util.Map;

/**
 * Puts references back in the place of the values that they stand for, in messages of drivers and
 * servers. A value may be a secret, whatever key it is used for.
 */
public final class Masks {
  /** Shorter values are no secrets, and would hide half of a message. */
  private static final int MIN_LENGTH = 4;

  private final Map<String, String> references = new LinkedHashMap<>();

  /**
   * Notes a value.
   *
   * @param reference what stands for it, {@code ${NAME}}
   */
  public void add(String value, String reference) {
    if (value.length() >= MIN_LENGTH) {
      references.put(value, reference);
    }
  }

  /** The text without the values. */
  public String mask(String text) {
    String masked = text;
    for (Map.Entry<String, String> entry : references.entrySet()) {
      masked = masked.replace(entry.getKey(), entry.getValue());
    }
    return masked;
  }

  /** Two definitions are not different because of how their messages are written. */
  @Override
  public boolean equals(Object other) {
    return other instanceof Masks;
  }

  @Override
  public int hashCode() {
    return Masks.class.hashCode();
  }
}
