package org.mnemex.engine.text;

import com.ibm.icu.text.Normalizer2;

/**
 * Unicode normalisation (Standard Annex #15). The text is cut where the standard says that what
 * comes before cannot change what comes after, so that every piece keeps its place.
 */
final class NormaliseFilter implements CharFilter {
  private final String form;
  private final Normalizer2 normaliser;

  NormaliseFilter(String form, Normalizer2 normaliser) {
    this.form = form;
    this.normaliser = normaliser;
  }

  @Override
  public String name() {
    return "normalise: " + form;
  }

  @Override
  public MappedText apply(MappedText text) {
    String from = text.text();
    if (normaliser.isNormalized(from)) {
      return text;
    }
    MappedText.Builder out = text.change();
    int at = 0;
    while (at < from.length()) {
      int end = at + Character.charCount(from.codePointAt(at));
      while (end < from.length() && !normaliser.hasBoundaryBefore(from.codePointAt(end))) {
        end += Character.charCount(from.codePointAt(end));
      }
      String piece = from.substring(at, end);
      String normal = normaliser.normalize(piece);
      if (normal.equals(piece)) {
        out.keep(at, end);
      } else {
        out.replace(at, end, normal);
      }
      at = end;
    }
    return out.build();
  }
}
