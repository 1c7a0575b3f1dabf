package org.mnemex.engine.text;

import com.ibm.icu.text.Normalizer2;

/**
 * Accents, width and ligatures to base letters: compatibility decomposition (Unicode Standard Annex
 * #15), the combining marks of the European scripts removed, the rest composed again. Voiced kana
 * and Hangul keep their marks, because there a mark makes another letter.
 */
public final class Folding {
  private static final Normalizer2 DECOMPOSE = Normalizer2.getNFKDInstance();
  private static final Normalizer2 COMPOSE = Normalizer2.getNFCInstance();

  private Folding() {}

  /** {@code text} with base letters in place of accented ones; the same string if it is ASCII. */
  public static String fold(String text) {
    int i = 0;
    while (i < text.length() && text.charAt(i) < 0x80) {
      i++;
    }
    if (i == text.length()) {
      return text;
    }
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
    return fold(text).toLowerCase(java.util.Locale.ROOT);
  }
}
