package org.mnemex.service.definition;

import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.query.Wanted;

/** How people write how many words must match. */
public final class WantedWords {
  /** What there is, for messages. */
  public static final String FORMS =
      "all, any, a number of words up to %d, a share such as 75%%".formatted(QueryText.MAX_WORDS);

  private static final Pattern NUMBER = Pattern.compile("([0-9]{1,3})(%)?");

  private WantedWords() {}

  /** Reads {@code all}, {@code any}, a number or a share; null if it is none of these. */
  public static @Nullable Wanted parse(String text) {
    if ("all".equals(text)) {
      return Wanted.ALL;
    }
    if ("any".equals(text)) {
      return Wanted.ANY;
    }
    Matcher number = NUMBER.matcher(text);
    if (number.matches()) {
      int count = Integer.parseInt(number.group(1));
      boolean share = number.group(2) != null;
      if (count > 0 && count <= (share ? 100 : QueryText.MAX_WORDS)) {
        return share ? new Wanted(0, count / 100.0) : new Wanted(count, 1);
      }
    }
    return null;
  }
}
