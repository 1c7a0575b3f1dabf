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
  private boolean ascii;
  private boolean kept;
  private boolean joined;
  private @Nullable String text;

  /**
   * Takes the units of {@code text} from {@code from} to before {@code to}.
   *
   * @param ascii whether all of them are known to be ASCII
   */
  void set(char[] text, int from, int to, int position, boolean ascii) {
    int cut = Math.min(to - from, MAX_LENGTH);
    if (cut < to - from && Character.isHighSurrogate(text[from + cut - 1])) {
      cut--;
    }
    room(cut);
    System.arraycopy(text, from, chars, 0, cut);
    this.length = cut;
    this.ascii = ascii;
    this.kept = false;
    this.joined = false;
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
    ascii = false;
    this.text = text instanceof String whole && whole.length() == cut ? whole : null;
  }

  /** Whether the text is known to be ASCII. */
  boolean isAscii() {
    return ascii;
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

  /** Replaces the token's text and keeps its place. */
  void text(char[] with) {
    int cut = Math.min(with.length, MAX_LENGTH);
    room(cut);
    System.arraycopy(with, 0, chars, 0, cut);
    length = cut;
    ascii = false;
    text = null;
  }

  /**
   * To be called after {@link #chars()} was changed.
   *
   * @param stillAscii whether a text of ASCII still is one
   */
  void changed(boolean stillAscii) {
    text = null;
    ascii &= stillAscii;
  }

  /** Becomes the same as another token. */
  void copyOf(Token other) {
    room(other.length);
    System.arraycopy(other.chars, 0, chars, 0, other.length);
    length = other.length;
    start = other.start;
    end = other.end;
    position = other.position;
    span = other.span;
    ascii = other.ascii;
    kept = other.kept;
    joined = other.joined;
    text = other.text;
  }

  void place(int start, int end, int position) {
    this.start = start;
    this.end = end;
    this.position = position;
  }

  void span(int span) {
    this.span = span;
  }

  /** Says whether it is asked for together with the token before it, in the same place. */
  void join(boolean withTheOneBefore) {
    joined = withTheOneBefore;
  }

  boolean isJoined() {
    return joined;
  }

  /** Whether the text is the same. */
  boolean is(char[] other) {
    return Arrays.equals(chars, 0, length, other, 0, other.length);
  }

  /** Says that stemmers are to leave the token alone. */
  void protect() {
    kept = true;
  }

  boolean isProtected() {
    return kept;
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

  /** The token's text. Consecutive filters ask for it, so it is made once. */
  public String text() {
    String made = text;
    if (made == null) {
      made = new String(chars, 0, length);
      text = made;
    }
    return made;
  }
}
