package org.mnemex.engine.text;

import java.util.Arrays;
import org.jspecify.annotations.Nullable;

/**
 * A text that was made of another, with the part of the original that every UTF-16 unit came from.
 */
public final class MappedText {
  private final String text;
  private final int @Nullable [] starts;
  private final int @Nullable [] ends;

  private MappedText(String text, int @Nullable [] starts, int @Nullable [] ends) {
    this.text = text;
    this.starts = starts;
    this.ends = ends;
  }

  /** An original. */
  public static MappedText of(String text) {
    return new MappedText(text, null, null);
  }

  public String text() {
    return text;
  }

  /** The first units of it, or all if there are no more. */
  MappedText first(int units) {
    return text.length() <= units ? this : new MappedText(text.substring(0, units), starts, ends);
  }

  /** Where in the original the unit at {@code at} came from. */
  public int start(int at) {
    return starts == null ? at : starts[at];
  }

  /** The end of what in the original the unit at {@code at} came from. */
  public int end(int at) {
    return ends == null ? at + 1 : ends[at];
  }

  /** Builds the next text, piece by piece in the order of this one. */
  public Builder change() {
    return new Builder();
  }

  /** Collects pieces. */
  public final class Builder {
    private final StringBuilder out = new StringBuilder(text.length());
    private int[] newStarts = new int[text.length() + 16];
    private int[] newEnds = new int[text.length() + 16];

    /** Takes the units from {@code from} to before {@code end} as they are. */
    public void keep(int from, int end) {
      room(end - from);
      for (int i = from; i < end; i++) {
        newStarts[out.length()] = start(i);
        newEnds[out.length()] = end(i);
        out.append(text.charAt(i));
      }
    }

    /** Puts {@code with} in place of the units from {@code from} to before {@code end}. */
    public void replace(int from, int end, CharSequence with) {
      if (from == end && from == text.length()) {
        return;
      }
      room(with.length());
      int start = start(from);
      int last = end(Math.max(from, end - 1));
      for (int i = 0; i < with.length(); i++) {
        newStarts[out.length()] = start;
        newEnds[out.length()] = last;
        out.append(with.charAt(i));
      }
    }

    private void room(int more) {
      if (out.length() + more > newStarts.length) {
        int size = Math.max(out.length() + more, 2 * newStarts.length);
        newStarts = Arrays.copyOf(newStarts, size);
        newEnds = Arrays.copyOf(newEnds, size);
      }
    }

    /** The text so far. */
    public MappedText build() {
      return new MappedText(out.toString(), newStarts, newEnds);
    }
  }
}
