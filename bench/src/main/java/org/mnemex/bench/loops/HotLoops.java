package org.mnemex.bench.loops;

import java.io.IOException;
import java.lang.foreign.MemorySegment;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.codec.PackedBlock;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.codec.PackedNumbersWriter;
import org.mnemex.engine.store.Bytes;
import org.mnemex.engine.store.FileOut;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.Token;
import org.mnemex.engine.text.TokenSink;
import org.openjdk.jmh.Main;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.Setup;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.Warmup;

/** Analysis, unpacking and counting, in microseconds for 1,024 numbers or 1,000 words. */
@State(Scope.Thread)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.MICROSECONDS)
@Fork(value = 1, jvmArgsAppend = "--enable-native-access=ALL-UNNAMED")
@Warmup(iterations = 3, time = 1)
@Measurement(iterations = 5, time = 1)
public class HotLoops {
  private static final int DISTINCT = 150;

  private String text = "";
  private final Count tokens = new Count();
  private final Analyser.Run words = Components.analysers().get("words").onto(tokens);
  private final Analyser.Run english = Components.analysers().get("english").onto(tokens);
  private Bytes packed = new Bytes(MemorySegment.ofArray(new byte[0]));
  private final PackedBlock decoder = new PackedBlock();
  private final int[] block = new int[PackedBlock.SIZE];
  private final int[] plain = new int[PackedNumbers.BLOCK];
  private PackedNumbers.Scan scan = new PackedNumbers(emptyColumn()).scan();
  private final int[] even = new int[DISTINCT];
  private final int[] odd = new int[DISTINCT];

  /** Runs them. */
  public static void main(String[] arguments) throws IOException {
    Main.main(arguments.length == 0 ? new String[] {"HotLoops|ScriptLoops"} : arguments);
  }

  private static final class Count implements TokenSink {
    long characters;

    @Override
    public void accept(Token token) {
      characters += token.length();
    }
  }

  private static Bytes emptyColumn() {
    return new Bytes(MemorySegment.ofArray(new byte[8]));
  }

  /** The same data every time. */
  @Setup
  public void setUp() throws IOException {
    Random random = new Random(1);
    StringBuilder some = new StringBuilder();
    for (int i = 0; i < 1000; i++) {
      int rank = (int) Math.pow(5_000, random.nextDouble());
      some.append(i % 12 == 0 ? 'W' : 'w').append(Integer.toString(rank * 7919, 26)).append(' ');
    }
    text = some.toString();
    GrowingBytes out = new GrowingBytes();
    int[] deltas = random.ints(PackedBlock.SIZE, 0, 200).toArray();
    for (int i = 0; i < 8; i++) {
      PackedBlock.encode(deltas, PackedBlock.SIZE, out);
    }
    packed = new Bytes(MemorySegment.ofArray(Arrays.copyOf(out.array(), out.length() + 8)));
    Arrays.setAll(plain, i -> random.nextInt(DISTINCT));
    scan = new PackedNumbers(column()).scan();
  }

  /** {@link #plain} as an index file has it. */
  private Bytes column() throws IOException {
    Path file = Files.createTempFile("column", ".bin");
    try {
      try (FileOut out = new FileOut(file)) {
        PackedNumbersWriter writer = new PackedNumbersWriter(out);
        for (int number : plain) {
          writer.add(number);
        }
        writer.finish();
        out.force();
      }
      return new Bytes(MemorySegment.ofArray(Files.readAllBytes(file)));
    } finally {
      Files.delete(file);
    }
  }

  /** 1,000 words, split and lower-cased. */
  @Benchmark
  public long analyseWords() {
    words.analyse(text);
    return tokens.characters;
  }

  /** 1,000 words, stopped and stemmed as well. */
  @Benchmark
  public long analyseEnglish() {
    english.analyse(text);
    return tokens.characters;
  }

  /** Beside them: the least that anybody must do with 1,000 words. */
  @Benchmark
  public Map<String, int[]> splitAndCount() {
    Map<String, int[]> counts = new HashMap<>();
    for (int start = 0, i = 0; i < text.length(); i++) {
      if (text.charAt(i) == ' ') {
        counts.computeIfAbsent(text.substring(start, i), word -> new int[1])[0]++;
        start = i + 1;
      }
    }
    return counts;
  }

  /** 1,024 numbers in 8 blocks of postings. */
  @Benchmark
  public int unpackPostings() {
    long at = 0;
    int sum = 0;
    for (int i = 0; i < 8; i++) {
      at = decoder.decode(packed, at, PackedBlock.SIZE, block);
      sum += block[i];
    }
    return sum;
  }

  /** Counts 1,024 values of a facet as they stand in the file. */
  @Benchmark
  public int[] countPacked() {
    scan.count(0, 0, even, odd);
    return even;
  }

  /** Beside it: the same values in an array. */
  @Benchmark
  public int[] countPlain() {
    for (int number : plain) {
      even[number]++;
    }
    return even;
  }
}
