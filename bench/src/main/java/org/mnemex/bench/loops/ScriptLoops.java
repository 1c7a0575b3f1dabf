package org.mnemex.bench.loops;

import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.Token;
import org.mnemex.engine.text.TokenSink;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Param;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.Setup;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.Warmup;

/**
 * Analysis of sentences in several scripts, in microseconds for about 1,000 words; {@code ascii} is
 * the baseline of the others.
 */
@State(Scope.Thread)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.MICROSECONDS)
@Fork(value = 1, jvmArgsAppend = "--enable-native-access=ALL-UNNAMED")
@Warmup(iterations = 3, time = 1)
@Measurement(iterations = 5, time = 1)
public class ScriptLoops {
  private static final int WORDS = 1_000;

  private static final Map<String, String> SENTENCES =
      Map.of(
          "ascii", "The gardener planted nine ferns beside the old wall in the shade of an oak. ",
          "typographic",
              "The gardener’s “shade ferns” stood – as ever – beside the wall’s cool foot. ",
          "french", "Le jardinier a planté neuf fougères près du vieux mur, à l’ombre d’un chêne. ",
          "russian", "Садовник посадил девять папоротников у старой стены в тени большого дуба. ",
          "greek",
              "Ο κηπουρός φύτεψε εννέα φτέρες δίπλα στον παλιό τοίχο στη σκιά της βελανιδιάς. ",
          "arabic", "زرع البستاني تسعة سراخس بجانب الجدار القديم في ظل شجرة البلوط الكبيرة. ",
          "japanese", "庭師は古い壁のそばの樫の木陰に九株のシダを植えました。",
          "hindi", "माली ने पुरानी दीवार के पास बलूत की छाया में नौ फ़र्न लगाए। ");

  private static final Map<String, String> STEMMED =
      Map.of("french", "french", "russian", "russian", "greek", "greek", "arabic", "arabic");

  private static final class Count implements TokenSink {
    long tokens;

    @Override
    public void accept(Token token) {
      tokens++;
    }
  }

  private final Count counted = new Count();
  private final Analyser.Run words = Components.analysers().get("words").onto(counted);
  private Analyser.Run stemmed = words;
  private String text = "";

  /** Which sentence. */
  @Param({"ascii", "typographic", "french", "russian", "greek", "arabic", "japanese", "hindi"})
  public String script = "ascii";

  /** As many sentences as make about 1,000 words. */
  @Setup
  public void setUp() {
    String sentence = SENTENCES.getOrDefault(script, "");
    Analyser analyser = Components.analysers().get("words");
    text = sentence.repeat(WORDS / analyser.tokens(sentence).size());
    stemmed = Components.analysers().get(STEMMED.getOrDefault(script, "english")).onto(counted);
  }

  /** Split, in lower case and folded. */
  @Benchmark
  public long analyse() {
    words.analyse(text);
    return counted.tokens;
  }

  /** The same with stopwords and stems of the language, English where there are none. */
  @Benchmark
  public long analyseAndStem() {
    stemmed.analyse(text);
    return counted.tokens;
  }
}
