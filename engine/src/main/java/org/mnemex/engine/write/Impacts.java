package org.mnemex.engine.write;

import java.util.Arrays;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.codec.LengthCode;

/** Collects the pairs of frequency and length that bound every score; see {@code Postings}. */
final class Impacts {
  private final int most;
  private final int[] freqByCode = new int[LengthCode.CODES];
  private final int[] freqs = new int[LengthCode.CODES];
  private final int[] codes = new int[LengthCode.CODES];

  /**
   * @param most how many pairs to keep; more are merged into looser ones
   */
  Impacts(int most) {
    this.most = most;
  }

  void clear() {
    Arrays.fill(freqByCode, 0);
  }

  void add(int freq, int code) {
    if (freqByCode[code] < freq) {
      freqByCode[code] = freq;
    }
  }

  void writeTo(GrowingBytes out) {
    int pairs = 0;
    int best = 0;
    for (int code = 0; code < freqByCode.length; code++) {
      if (freqByCode[code] > best) {
        best = freqByCode[code];
        freqs[pairs] = best;
        codes[pairs++] = code;
      }
    }
    while (pairs > most) {
      pairs = mergeNearest(pairs);
    }
    out.putByte(pairs);
    for (int i = 0; i < pairs; i++) {
      out.varInt(freqs[i]);
      out.putByte(codes[i]);
    }
  }

  /** The pair with the higher frequency takes the shorter length of its neighbour. */
  private int mergeNearest(int pairs) {
    int nearest = 0;
    double least = Double.MAX_VALUE;
    for (int i = 0; i + 1 < pairs; i++) {
      double growth = (double) freqs[i + 1] / freqs[i];
      if (growth < least) {
        least = growth;
        nearest = i;
      }
    }
    freqs[nearest] = freqs[nearest + 1];
    for (int i = nearest + 1; i + 1 < pairs; i++) {
      freqs[i] = freqs[i + 1];
      codes[i] = codes[i + 1];
    }
    return pairs - 1;
  }
}
