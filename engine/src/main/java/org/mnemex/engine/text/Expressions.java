package org.mnemex.engine.text;

import com.google.re2j.Pattern;
import com.google.re2j.PatternSyntaxException;
import java.util.regex.Matcher;

/**
 * Regular expressions of definitions, in the syntax of RE2, whose matching takes time in proportion
 * to the text. What an expression itself may cost is limited before it is compiled.
 */
public final class Expressions {
  private static final int MAX_LENGTH = 1_000;
  private static final int MAX_DEPTH = 50;

  /** Counted repetitions are written out when an expression is compiled, each within the other. */
  private static final long MAX_REPETITIONS = 1_000;

  private static final java.util.regex.Pattern COUNTED =
      java.util.regex.Pattern.compile("\\{(\\d{1,9})(?:,(\\d{0,9}))?\\}");

  private Expressions() {}

  /**
   * Compiles an expression.
   *
   * @throws PatternSyntaxException if it cannot be read, is too long, or nested too deep
   */
  public static Pattern compile(String expression) {
    if (expression.length() > MAX_LENGTH) {
      throw new PatternSyntaxException(
          "it has more than %d characters".formatted(MAX_LENGTH),
          expression.substring(0, 40) + "…");
    }
    int depth = 0;
    for (int i = 0; i < expression.length(); i++) {
      char c = expression.charAt(i);
      if (c == '\\') {
        i++;
      } else if (c == '(' && ++depth > MAX_DEPTH) {
        throw new PatternSyntaxException(
            "its groups are nested more than %d deep".formatted(MAX_DEPTH), expression);
      } else if (c == ')') {
        depth--;
      }
    }
    long repetitions = 1;
    Matcher counted = COUNTED.matcher(expression);
    while (counted.find()) {
      String most = counted.group(2);
      String count = most == null || most.isEmpty() ? counted.group(1) : most;
      repetitions *= Math.max(1, Long.parseLong(count));
      if (repetitions > MAX_REPETITIONS) {
        throw new PatternSyntaxException(
            "its counted repetitions multiply to more than %,d".formatted(MAX_REPETITIONS),
            expression);
      }
    }
    return Pattern.compile(expression);
  }
}
