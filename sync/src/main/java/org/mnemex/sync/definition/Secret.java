package org.mnemex.sync.definition;

/** A secret value, which prints as stars. */
public final class Secret {
  private final String value;

  public Secret(String value) {
    this.value = value;
  }

  /** The value itself, to be sent but never shown. */
  public String reveal() {
    return value;
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof Secret secret && secret.value.equals(value);
  }

  @Override
  public int hashCode() {
    return value.hashCode();
  }

  @Override
  public String toString() {
    return "***";
  }
}
