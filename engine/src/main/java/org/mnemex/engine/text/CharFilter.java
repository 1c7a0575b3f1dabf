package org.mnemex.engine.text;

/** Changes a text before it is cut into tokens, and keeps where everything came from. */
public interface CharFilter {
  /** The name that definitions use, with its option if it has one. */
  String name();

  /** Whether it takes out what people do not read, as markup. */
  default boolean makesReadable() {
    return false;
  }

  /** The changed text. */
  MappedText apply(MappedText text);
}
