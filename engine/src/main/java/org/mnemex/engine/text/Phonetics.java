package org.mnemex.engine.text;

import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import org.apache.commons.codec.EncoderException;
import org.apache.commons.codec.StringEncoder;
import org.apache.commons.codec.language.Caverphone2;
import org.apache.commons.codec.language.ColognePhonetic;
import org.apache.commons.codec.language.DoubleMetaphone;
import org.apache.commons.codec.language.Metaphone;
import org.apache.commons.codec.language.Nysiis;
import org.apache.commons.codec.language.RefinedSoundex;
import org.apache.commons.codec.language.Soundex;

/** Phonetic codes of words. */
final class Phonetics {
  private static final Map<String, StringEncoder> CODES =
      new TreeMap<>(
          Map.of(
              "soundex", new Soundex(),
              "refined_soundex", new RefinedSoundex(),
              "metaphone", new Metaphone(),
              "double_metaphone", new DoubleMetaphone(),
              "nysiis", new Nysiis(),
              "caverphone", new Caverphone2(),
              "cologne", new ColognePhonetic()));

  private Phonetics() {}

  static Set<String> codes() {
    return CODES.keySet();
  }

  /** Each word becomes its code; what has none, such as a number, stays as it is. */
  static TokenFilter filter(String code) {
    StringEncoder encoder = Objects.requireNonNull(CODES.get(code));
    return TokenFilter.each(
        "phonetic: " + code,
        (token, output) -> {
          String sound = encode(encoder, Folding.fold(token.text()));
          if (!sound.isEmpty()) {
            token.text(sound);
          }
          output.accept(token);
        });
  }

  private static String encode(StringEncoder encoder, String word) {
    for (int i = 0; i < word.length(); i++) {
      // The codes are made for Latin letters; some throw at any other.
      if (word.charAt(i) > 0x7F || !Character.isLetter(word.charAt(i))) {
        return "";
      }
    }
    try {
      return encoder.encode(word);
    } catch (EncoderException e) {
      return "";
    }
  }
}
