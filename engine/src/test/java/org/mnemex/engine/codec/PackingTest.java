package org.mnemex.engine.codec;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.lang.foreign.MemorySegment;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.store.Bytes;
import org.mnemex.engine.store.FileOut;

/** What was packed comes back as it was. */
class PackingTest {
  @Property
  void blocks(@ForAll long seed) {
    Random random = new Random(seed);
    int count = 1 + random.nextInt(PackedBlock.SIZE);
    int[] values = new int[count];
    int bits = random.nextInt(32);
    for (int i = 0; i < count; i++) {
      int own = random.nextInt(10) == 0 ? random.nextInt(32) : bits;
      values[i] = (int) (random.nextLong() & (1L << own) - 1);
    }
    GrowingBytes out = new GrowingBytes();
    out.putByte(7);
    PackedBlock.encode(values, count, out);
    int end = out.length();
    Bytes in = new Bytes(MemorySegment.ofArray(out.toArray()));
    int[] read = new int[count];
    assertThat(new PackedBlock().decode(in, 1, count, read)).isEqualTo(end);
    assertThat(read).isEqualTo(values);
    assertThat(PackedBlock.skip(in, 1, count)).isEqualTo(end);
  }

  @Property(tries = 200)
  void numbers(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    int count = random.nextInt(5_000);
    long[] values = new long[count];
    int kind = random.nextInt(5);
    for (int i = 0; i < count; i++) {
      values[i] =
          switch (kind) {
            case 0 -> 42;
            case 1 -> 1_000L + 86_400_000_000L * i + random.nextInt(1000);
            case 2 -> random.nextInt(1 << random.nextInt(31));
            case 3 -> random.nextLong();
            default -> random.nextInt(50) == 0 ? Long.MIN_VALUE : Long.MAX_VALUE - i;
          };
    }
    Path file = Files.createTempFile("packed", ".bin");
    try {
      try (FileOut out = new FileOut(file)) {
        PackedNumbersWriter writer = new PackedNumbersWriter(out);
        for (long value : values) {
          writer.add(value);
        }
        writer.finish();
      }
      PackedNumbers read =
          new PackedNumbers(new Bytes(MemorySegment.ofArray(Files.readAllBytes(file))));
      assertThat(read.size()).isEqualTo(count);
      PackedNumbers.Scan scan = read.scan();
      for (int block = 0; block < read.blocks(); block++) {
        int first = block * PackedNumbers.BLOCK;
        long[] here = Arrays.copyOfRange(values, first, first + read.blockSize(block));
        assertThat(Arrays.copyOf(scan.block(block), here.length)).isEqualTo(here);
        assertThat(read.least(block)).isEqualTo(Arrays.stream(here).min().orElse(0));
        assertThat(read.greatest(block)).isEqualTo(Arrays.stream(here).max().orElse(0));
        for (int i = 0; i < here.length; i += 97) {
          assertThat(read.get(first + i)).isEqualTo(here[i]);
        }
      }
      // Mostly forward, sometimes back: blocks are unpacked meanwhile, or not.
      PackedNumbers.Walk walk = read.walk();
      int step = 1 + random.nextInt(40);
      for (int i = 0; i < count; i += random.nextInt(step)) {
        int place = Math.max(0, i - random.nextInt(3));
        assertThat(walk.get(place)).isEqualTo(values[place]);
        i++;
      }
    } finally {
      Files.delete(file);
    }
  }

  @Test
  void lengthsAreExactWhereTheyAreShortAndNeverFarOff() {
    for (int length = 0; length < 250_000; length++) {
      int decoded = LengthCode.length(LengthCode.of(length));
      assertThat(decoded).isLessThanOrEqualTo(length).isGreaterThan((int) (length * 0.93) - 1);
      assertThat(LengthCode.of(decoded)).isEqualTo(LengthCode.of(length));
    }
    assertThat(LengthCode.of(Integer.MAX_VALUE)).isEqualTo(255);
  }

  @Test
  void aKeyFilterKnowsItsKeysAndFewOthers() {
    KeyFilter.Builder builder = new KeyFilter.Builder(10_000);
    for (int i = 0; i < 10_000; i++) {
      builder.add(key("QB-" + i));
    }
    Bytes filter = new Bytes(MemorySegment.ofArray(builder.bytes()));
    int strangers = 0;
    for (int i = 0; i < 10_000; i++) {
      assertThat(KeyFilter.mayContain(filter, KeyFilter.hash(key("QB-" + i)))).isTrue();
      strangers += KeyFilter.mayContain(filter, KeyFilter.hash(key("other " + i))) ? 1 : 0;
    }
    assertThat(strangers).isLessThan(300);
  }

  private static byte[] key(String key) {
    return key.getBytes(StandardCharsets.UTF_8);
  }
}
