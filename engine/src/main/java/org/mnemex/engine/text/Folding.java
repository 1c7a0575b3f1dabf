package org.mnemex.engine.text;

import com.ibm.icu.text.Normalizer2;
import java.util.Locale;

/**
 * Accents, width and ligatures to base letters: compatibility decomposition (Unicode Standard Annex
 * #15), the combining marks of the European scripts removed, the rest composed again. Voiced kana
 * and Hangul keep their marks, because there a mark makes another letter.
 */
public final class Folding {
  private static final Normalizer2 DECOMPOSE = Normalizer2.getNFKDInstance();
  private static final Normalizer2 COMPOSE = Normalizer2.getNFCInstance();

  /** Below are the alphabets of Europe and Arabic, and their punctuation. */
  private static final int TABLE_SIZE = 0x2100;

  private static final char UNKNOWN = '\uFFFE';
  private static final char REMOVED = '\uFFFF';

  /**
   * What a character becomes, where that does not depend on its neighbours: itself or another one,
   * {@link #REMOVED}, or {@link #UNKNOWN}.
   */
  private static final char[] TABLE = new char[TABLE_SIZE];

  static {
    for (char c = 0; c < TABLE_SIZE; c++) {
      String folded = foldAny(String.valueOf(c));
      TABLE[c] =
          folded.isEmpty()
              ? REMOVED
              : folded.length() == 1 && COMPOSE.hasBoundaryBefore(folded.charAt(0))
                  ? folded.charAt(0)
                  : UNKNOWN;
    }
  }

  private Folding() {}

  /**
   * Folds in place.
   *
   * @return the new length; -1 if that is beyond the table, and nothing has changed then
   */
  static int inPlace(char[] chars, int length) {
    for (int i = 0; i < length; i++) {
      if (chars[i] >= TABLE_SIZE || TABLE[chars[i]] == UNKNOWN) {
        return -1;
      }
    }
    int kept = 0;
    for (int i = 0; i < length; i++) {
      char to = TABLE[chars[i]];
      if (to != REMOVED) {
        chars[kept++] = to;
      }
    }
    return kept;
  }

  /** {@code text} with base letters in place of accented ones; the same string if it is ASCII. */
  public static String fold(String text) {
    int i = 0;
    while (i < text.length() && text.charAt(i) < 0x80) {
      i++;
    }
    if (i == text.length()) {
      return text;
    }
    char[] chars = text.toCharArray();
    int length = inPlace(chars, chars.length);
    return length < 0 ? foldAny(text) : new String(chars, 0, length);
  }

  /** The same for any text, by the rules themselves. */
  static String foldAny(String text) {
    String apart = DECOMPOSE.normalize(text);
    StringBuilder out = new StringBuilder(apart.length());
    for (int j = 0; j < apart.length(); j++) {
      char c = apart.charAt(j);
      if (isMark(c)) {
        continue;
      }
      switch (c) {
        case 'ß' -> out.append("ss");
        case 'ẞ' -> out.append("SS");
        case 'æ' -> out.append("ae");
        case 'Æ' -> out.append("AE");
        case 'œ' -> out.append("oe");
        case 'Œ' -> out.append("OE");
        case 'ø' -> out.append('o');
        case 'Ø' -> out.append('O');
        case 'ł' -> out.append('l');
        case 'Ł' -> out.append('L');
        case 'đ', 'ð' -> out.append('d');
        case 'Đ', 'Ð' -> out.append('D');
        case 'þ' -> out.append("th");
        case 'Þ' -> out.append("TH");
        case 'ı' -> out.append('i');
        case 'ى', 'ی' -> out.append('ي');
        case 'ک' -> out.append('ك');
        case 'ة' -> out.append('ه');
        case '’', 'ʼ' -> out.append('\'');
        default -> out.append(c);
      }
    }
    return COMPOSE.normalize(out);
  }

  /**
   * Marks that make no other letter: those of the European scripts, vowel signs of Arabic and
   * Hebrew, the Arabic stroke that only makes a word longer.
   */
  private static boolean isMark(char c) {
    return (c >= '\u0300' && c <= '\u036F')
        || (c >= '\u0591' && c <= '\u05C7' && c != '\u05BE' && c != '\u05C0' && c != '\u05C3')
        || (c >= '\u064B' && c <= '\u065F')
        || c == '\u0670'
        || c == '\u0640';
  }

  /** The form under which case and accents make no difference: folded, then lower case. */
  public static String foldCase(String text) {
    return fold(text).toLowerCase(Locale.ROOT);
  }
}
