package org.mnemex.engine.text;

import java.util.Arrays;
import org.jspecify.annotations.Nullable;

/**
 * One token on its way through a chain. The object is reused: a sink that keeps a token copies what
 * it needs before it returns.
 *
 * <p>{@code start} and {@code end} are UTF-16 offsets in the original text, end exclusive. {@code
 * position} counts words from 0; {@code span} is the number of positions the token covers.
 */
public final class Token {
  /** Longer tokens are cut to this many UTF-16 units; the rest is not searchable. */
  public static final int MAX_LENGTH = 255;

  private char[] chars = new char[32];
  private int length;
  private int start;
  private int end;
  private int position;
  private int span = 1;
  private @Nullable String text;

  void set(CharSequence text, int from, int to, int position) {
    int cut = Math.min(to - from, MAX_LENGTH);
    if (cut < to - from && Character.isHighSurrogate(text.charAt(from + cut - 1))) {
      cut--;
    }
    room(cut);
    for (int i = 0; i < cut; i++) {
      chars[i] = text.charAt(from + i);
    }
    this.length = cut;
    this.start = from;
    this.end = to;
    this.position = position;
    this.span = 1;
    this.text = null;
  }

  /** Replaces the token's text and keeps its place. */
  public void text(CharSequence text) {
    int cut = Math.min(text.length(), MAX_LENGTH);
    room(cut);
    for (int i = 0; i < cut; i++) {
      chars[i] = text.charAt(i);
    }
    length = cut;
    this.text = text instanceof String whole && whole.length() == cut ? whole : null;
  }

  /** Drops {@code count} UTF-16 units from the front; offsets stay those of the whole word. */
  void dropFront(int count) {
    System.arraycopy(chars, count, chars, 0, length - count);
    length -= count;
    text = null;
  }

  void length(int length) {
    this.length = length;
    this.text = null;
  }

  /** To be called by whoever has changed {@link #chars()}. */
  void changed() {
    text = null;
  }

  private void room(int wanted) {
    if (wanted > chars.length) {
      chars = Arrays.copyOf(chars, Math.max(wanted, 2 * chars.length));
    }
  }

  /** The token's text as a buffer; only the first {@link #length()} units are valid. */
  char[] chars() {
    return chars;
  }

  public int length() {
    return length;
  }

  /**
   * Writes the text as UTF-8; a surrogate without its other half becomes a question mark, as {@link
   * String#getBytes} has it.
   *
   * @param out has room for 3 bytes a UTF-16 unit
   * @return how many bytes were written
   */
  public int utf8(byte[] out) {
    int at = 0;
    for (int i = 0; i < length; i++) {
      char c = chars[i];
      if (c < 0x80) {
        out[at++] = (byte) c;
      } else if (c < 0x800) {
        out[at++] = (byte) (0xC0 | c >> 6);
        out[at++] = (byte) (0x80 | c & 0x3F);
      } else if (Character.isHighSurrogate(c)
          && i + 1 < length
          && Character.isLowSurrogate(chars[i + 1])) {
        int point = Character.toCodePoint(c, chars[++i]);
        out[at++] = (byte) (0xF0 | point >> 18);
        out[at++] = (byte) (0x80 | point >> 12 & 0x3F);
        out[at++] = (byte) (0x80 | point >> 6 & 0x3F);
        out[at++] = (byte) (0x80 | point & 0x3F);
      } else if (Character.isSurrogate(c)) {
        out[at++] = '?';
      } else {
        out[at++] = (byte) (0xE0 | c >> 12);
        out[at++] = (byte) (0x80 | c >> 6 & 0x3F);
        out[at++] = (byte) (0x80 | c & 0x3F);
      }
    }
    return at;
  }

  public int start() {
    return start;
  }

  public int end() {
    return end;
  }

  public int position() {
    return position;
  }

  public int span() {
    return span;
  }

  /** The token's text. Filters behind one another ask for it, so it is made once. */
  public String text() {
    String made = text;
    if (made == null) {
      made = new String(chars, 0, length);
      text = made;
    }
    return made;
  }
}
