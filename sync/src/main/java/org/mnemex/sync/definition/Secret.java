package org.mnemex.sync.definition;

/** A value that is used but never shown: it prints as stars. */
public final class Secret {
  private final String value;

  public Secret(String value) {
    this.value = value;
  }

  /** The value itself, to be sent and never shown. */
  public String reveal() {
    return value;
  }

  @Override
  public String toString() {
    return "***";
  }
}
