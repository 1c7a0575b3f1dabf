package org.mnemex.engine.read;

import static org.assertj.core.api.Assertions.assertThat;

import java.lang.foreign.MemorySegment;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.store.Bytes;

/** Lookups in a dictionary, beside a map. */
class DictionaryTest {
  /** Short strings of few letters, so that many are beginnings of others. */
  @Provide
  Arbitrary<List<String>> strings() {
    return Arbitraries.strings().withChars('a', 'b', 'é').ofMaxLength(7).list().ofMaxSize(400);
  }

  @Property(tries = 300)
  void findsWhatIsThereInAnyOrder(
      @ForAll("strings") List<String> there,
      @ForAll("strings") List<String> wanted,
      @ForAll boolean growing) {
    TreeMap<String, Long> all = new TreeMap<>();
    there.forEach(text -> all.put(text, 0L));
    long number = 3;
    for (var entry : all.entrySet()) {
      entry.setValue(number);
      number += entry.getKey().length() * 50L;
    }
    Dictionary dictionary = new Dictionary(written(all, growing));
    Dictionary.Lookup lookup = dictionary.lookup();
    all.forEach((text, value) -> assertThat(lookup.number(bytes(text))).isEqualTo(value));
    for (String text : wanted) {
      assertThat(lookup.number(bytes(text))).as(text).isEqualTo(all.getOrDefault(text, -1L));
    }
    all.descendingMap()
        .forEach((text, value) -> assertThat(lookup.number(bytes(text))).isEqualTo(value));
  }

  private static byte[] bytes(String text) {
    return text.getBytes(StandardCharsets.UTF_8);
  }

  /** As the format says, with a second number that lookups pass over. */
  private static Bytes written(Map<String, Long> all, boolean growing) {
    GrowingBytes out = new GrowingBytes();
    GrowingBytes offsets = new GrowingBytes();
    byte[] last = new byte[0];
    long before = 0;
    int count = 0;
    for (var entry : all.entrySet()) {
      byte[] text = bytes(entry.getKey());
      int shared = 0;
      if (count % Dictionary.BLOCK == 0) {
        offsets.putLow(out.length(), 8);
        before = 0;
      } else {
        while (shared < Math.min(last.length, text.length) && last[shared] == text[shared]) {
          shared++;
        }
        out.varInt(shared);
      }
      out.varInt(text.length - shared);
      out.put(text, shared, text.length - shared);
      out.varLong(growing ? entry.getValue() - before : entry.getValue());
      out.varLong(1 << 20);
      before = entry.getValue();
      last = text;
      count++;
    }
    out.put(offsets);
    out.putLow(count, 4);
    out.putLow(2, 1);
    out.putLow(growing ? 1 : 0, 1);
    out.putLow(0, 2);
    return new Bytes(MemorySegment.ofArray(out.toArray()));
  }
}
