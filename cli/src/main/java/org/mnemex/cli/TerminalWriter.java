package org.mnemex.cli;

import java.io.PrintWriter;
import java.io.Writer;
import java.util.regex.Pattern;

/**
 * Writes to a terminal, which obeys control characters: those that come with data of others must
 * not reach it. Colours and the clearing of the screen pass, as we write these ourselves.
 */
final class TerminalWriter extends PrintWriter {
  private static final Pattern CONTROL =
      Pattern.compile("(\\x1b\\[[0-9;]*[mHJ])|[\\x00-\\x08\\x0b-\\x1f\\x7f-\\x9f\\u202a-\\u202e]");

  TerminalWriter(Writer out) {
    super(out, true);
  }

  /** The text with a dot in the place of each control character. */
  static String clean(String text) {
    return CONTROL.matcher(text).replaceAll(found -> found.group(1) == null ? "·" : found.group(1));
  }

  @Override
  public void write(String text, int from, int length) {
    String clean = clean(text.substring(from, from + length));
    super.write(clean, 0, clean.length());
  }

  @Override
  public void write(char[] text, int from, int length) {
    write(new String(text, from, length), 0, length);
  }

  @Override
  public void write(int character) {
    write(String.valueOf((char) character), 0, 1);
  }
}
