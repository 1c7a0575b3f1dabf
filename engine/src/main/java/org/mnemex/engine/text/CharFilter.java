package org.mnemex.engine.text;

/** Changes a text before it is cut into tokens, and keeps where everything came from. */
public interface CharFilter {
  /** The name that definitions use, with its option if it has one. */
  String name();

  /** The changed text. */
  MappedText apply(MappedText text);
}
