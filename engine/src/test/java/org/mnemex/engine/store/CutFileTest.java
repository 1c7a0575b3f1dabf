package org.mnemex.engine.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.lang.foreign.Arena;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.function.LongUnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.codec.PackedNumbersWriter;

/** What a process does whose mapped file is cut while it reads in compiled code. */
class CutFileTest {
  @Test
  void isNoticedByEveryKindOfReading(@TempDir Path folder) throws Exception {
    Path file = folder.resolve("numbers");
    try (FileOut out = new FileOut(file)) {
      PackedNumbersWriter writer = new PackedNumbersWriter(out);
      for (int i = 0; i < 100_000; i++) {
        writer.add(7L * i + i % 5);
      }
      writer.finish();
    }
    Process reading =
        new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                // Compiled by the optimising compiler, and at once.
                "-XX:-TieredCompilation",
                "-Xbatch",
                "-XX:ErrorFile=" + folder.resolve("error"),
                "-cp",
                System.getProperty("java.class.path"),
                Reading.class.getName(),
                file.toString())
            .redirectErrorStream(true)
            .start();
    String said = new String(reading.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
    assertThat(reading.waitFor()).as(said).isZero();
    assertThat(said.lines()).hasSize(Reading.KINDS).allMatch("noticed"::equals);
  }

  /** Reads a file many times in each way, cuts it, and says whether the next reading notices. */
  static final class Reading {
    static final int KINDS = 7;
    private static final int TIMES = 50_000;

    private Reading() {}

    public static void main(String[] args) throws IOException {
      Path file = Path.of(args[0]);
      try (FileChannel channel =
          FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE)) {
        Bytes bytes =
            new Bytes(
                channel.map(FileChannel.MapMode.READ_ONLY, 0, Files.size(file), Arena.ofAuto()));
        PackedNumbers numbers = new PackedNumbers(bytes);
        PackedNumbers.Scan scan = numbers.scan();
        byte[] some = {7, 0, 0, 0};
        byte[] copy = new byte[100];
        List<LongUnaryOperator> kinds =
            List.of(
                numbers::get,
                place -> scan.block((int) (place >>> 10))[0],
                place -> (long) bytes.intAt(place) * place,
                place -> bytes.longAt(place) + bytes.byteAt(place),
                place -> bytes.at(0).readVarLong(),
                place -> bytes.compare(place, some.length, some),
                place -> {
                  bytes.copy(place, copy, copy.length);
                  return copy[0];
                });
        long sum = 0;
        for (LongUnaryOperator kind : kinds) {
          for (int i = 0; i < TIMES; i++) {
            sum += kind.applyAsLong(i);
          }
        }
        channel.truncate(sum == 0 ? 1 : 0);
        for (LongUnaryOperator kind : kinds) {
          try {
            System.out.println("unnoticed: " + kind.applyAsLong(1));
          } catch (InternalError e) {
            System.out.println("noticed");
          }
        }
      }
    }
  }
}
