package org.mnemex.engine.text;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** A chain is used by one thread at a time, but not always by the one that set it up. */
class ChainHandoverTest {
  private static final int CHAINS = 4;
  private static final int WORDS = 40_000;

  @ParameterizedTest
  @ValueSource(strings = {"french", "english", "japanese", "thai", "greek"})
  void chainsOfOneThreadDoNotShareWhatTheyChange(String name) throws Exception {
    Analyser analyser = Components.analysers().get(name);
    // More words than are remembered together with their stems.
    List<String> words = new ArrayList<>();
    for (int i = 0; i < WORDS; i++) {
      words.add(Integer.toString(i * 7919, 26).replaceAll("[0-9]", "e") + "issements ホタル");
    }
    List<List<String>> tokens = new ArrayList<>();
    List<Callable<Void>> tasks = new ArrayList<>();
    for (int chain = 0; chain < CHAINS; chain++) {
      List<String> own = new ArrayList<>();
      tokens.add(own);
      Analyser.Run run = analyser.onto(token -> own.add(token.text()));
      tasks.add(
          () -> {
            words.forEach(run::analyse);
            return null;
          });
    }
    try (ExecutorService threads = Executors.newFixedThreadPool(CHAINS)) {
      for (Future<Void> done : threads.invokeAll(tasks)) {
        done.get();
      }
    }
    assertThat(tokens.getFirst()).hasSizeGreaterThan(WORDS);
    for (List<String> others : tokens) {
      // Not isEqualTo: its message would hold all of them.
      assertThat(others.equals(tokens.getFirst())).isTrue();
    }
  }
}
