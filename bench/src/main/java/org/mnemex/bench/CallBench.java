package org.mnemex.bench;

import java.io.PrintStream;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;

/** Times the calls of a search page over HTTP, one kind after the other, beside a plain search. */
final class CallBench {
  private static final int ROUNDS = 300;

  /** Rounds before the code is compiled and the caches are warm. */
  private static final int WARM = 60;

  /** No round begins after this time. */
  private static final long LONGEST_NANOS = 300_000_000_000L;

  private static final String COMPLETION = "completion, ";
  private static final int LETTERS = 6;

  /** Somebody who types waits for a warm service: completions are asked for more often before. */
  private static final int WARM_LETTERS = 5 * LETTERS;

  private static final List<String> WORDS =
      List.of(
          "fern",
          "shade",
          "slugs",
          "rose",
          "frost",
          "asplenium",
          "honey fungus",
          "deep shade",
          "mulched",
          "japanese maple",
          "vigorous",
          "rosaceae",
          "walk");

  private static final Map<String, String> SOURCES = new LinkedHashMap<>();

  static {
    SOURCES.put("values", "values: {}");
    SOURCES.put("recent", "values: {recent: planted_on}");
    SOURCES.put("words", "words: {}");
    SOURCES.put("facets", "facets: {of: [family, bed]}");
    SOURCES.put("phrases", "phrases: {of: [visitor-phrases]}");
    SOURCES.put("searched", "searched: {least: 1}");
  }

  private interface Call {
    void run(Random random);
  }

  private final MnemexClient client;
  private final PrintStream out;
  private final int accessions;

  /**
   * @param accessions how many records there are in the garden
   */
  CallBench(MnemexClient client, PrintStream out, int accessions) {
    this.client = client;
    this.out = out;
    this.accessions = accessions;
  }

  /** Defines endpoints that complete from one source each, and measures. */
  void run() {
    StringBuilder definitions = new StringBuilder();
    SOURCES.forEach(
        (name, source) ->
            definitions.append(
                """
                ---
                endpoint: bench-%s
                index: plants
                search: {name: 5, latin_name: 4, notes: 1}
                only: "status IN ('planted', 'nursery')"
                show: [number, name, latin_name, notes, planted_on]
                facets: {family: {field: family}, bed: {field: bed}}
                completions: {%s}
                """
                    .formatted(name, source)));
    client.apply(Map.of("bench.yaml", definitions.substring(4)));
    Map<String, Call> calls = new LinkedHashMap<>();
    calls.put("plain search", random -> client.search("plant-search", plain(word(random))));
    calls.put(
        "three endpoints",
        random ->
            client.search(
                List.of("plant-search", "bench-values", "bench-facets"), plain(word(random))));
    calls.put(
        "similar records",
        random ->
            client.search(
                "plant-search",
                plain("").similarTo(Garden.number(1 + random.nextInt(accessions)))));
    calls.put(
        "grouped by family",
        random -> client.search("plant-search", plain(word(random)).group("family")));
    calls.put(COMPLETION + "all sources", random -> complete("plant-search", random));
    SOURCES
        .keySet()
        .forEach(name -> calls.put(COMPLETION + name, random -> complete("bench-" + name, random)));
    Map<String, Times> times = new LinkedHashMap<>();
    calls.keySet().forEach(name -> times.put(name, new Times()));
    long end = System.nanoTime() + LONGEST_NANOS;
    for (int round = 0; round < ROUNDS && System.nanoTime() < end; round++) {
      for (Map.Entry<String, Call> call : calls.entrySet()) {
        // People type several letters for each search.
        int letters = round < WARM ? WARM_LETTERS : LETTERS;
        int typed = call.getKey().startsWith(COMPLETION) ? letters : 1;
        for (int i = 0; i < typed; i++) {
          measure(
              call.getValue(),
              new Random(WARM_LETTERS * round + i),
              times.get(call.getKey()),
              round);
        }
      }
    }
    times.forEach((name, one) -> out.printf("%-26s over HTTP: %s%n", name, one));
  }

  private static void measure(Call call, Random random, Times times, int round) {
    long start = System.nanoTime();
    try {
      call.run(random);
    } catch (ProblemException e) {
      // A record that is not shown has none similar.
      return;
    }
    if (round >= WARM) {
      times.add(System.nanoTime() - start);
    }
  }

  /** Without facets and highlights. */
  private static SearchQuery plain(String words) {
    return SearchQuery.words(words).page(1, 10).counts(List.of()).highlights(false);
  }

  private static String word(Random random) {
    return WORDS.get(random.nextInt(WORDS.size()));
  }

  private void complete(String endpoint, Random random) {
    String word = word(random);
    client.suggest(endpoint, word.substring(0, 1 + random.nextInt(word.length())), 8);
  }
}
