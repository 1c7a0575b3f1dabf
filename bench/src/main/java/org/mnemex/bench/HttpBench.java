package org.mnemex.bench;

import java.io.IOException;
import java.io.InputStream;
import java.io.PrintStream;
import java.net.HttpURLConnection;
import java.net.URI;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.Folders;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * What HTTP adds to a search: one client on a kept connection beside the time that the answer says
 * it took inside, and four connections beside an answer of the same service that is always the
 * same.
 */
public final class HttpBench {
  private static final ObjectMapper JSON = JsonMapper.shared();
  private static final int WARM = 10_000;
  private static final int CALLS = 5_000;
  private static final int SEARCHES = 2_000;
  private static final int CONNECTIONS = 4;
  private static final int ROUNDS = 5;
  private static final long ROUND_NANOS = 5_000_000_000L;
  private static final String FIXED = "/api/schemas/phrases";

  /** Each two of them are a query; people ask for some more often than for others. */
  private static final List<String> WORDS =
      List.of(
          "fern",
          "shade",
          "slugs",
          "rose",
          "frost",
          "fungus",
          "deep",
          "mulched",
          "maple",
          "vigorous",
          "walk",
          "asplenium",
          "leaves",
          "spring",
          "replanted",
          "label");

  private static final String ENDPOINT =
      """
      endpoint: bench-http
      index: plants
      search: {name: 5, latin_name: 4, notes: 1}
      words: any
      show: [number, name]
      facets: {family: {field: family}}
      """;

  private final PrintStream out;
  private final URI uri;

  private HttpBench(PrintStream out, URI uri) {
    this.out = out;
    this.uri = uri;
  }

  /** Measures and prints: {@code [ACCESSIONS]}. */
  public static void main(String[] args) throws Exception {
    int accessions = args.length == 0 ? Garden.USUAL_ACCESSIONS : Integer.parseInt(args[0]);
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    Path folder = Files.createTempDirectory("mnemex-bench");
    try (SqliteGarden garden = SqliteGarden.create(folder, accessions);
        ServiceProcess service = ServiceProcess.start(folder, garden.environment())) {
      Map<String, String> files = new LinkedHashMap<>(GardenBench.files("garden"));
      files.putAll(garden.definitions());
      files.put("bench.yaml", ENDPOINT);
      service.client().apply(files);
      ServiceProcess.await(() -> service.client().indexes().getFirst().live() != null);
      out.printf(
          "Mnemex bench http: garden of %,d accessions, %d cores, Java %s%n",
          accessions, Runtime.getRuntime().availableProcessors(), Runtime.version());
      new HttpBench(out, service.uri()).run();
    } finally {
      Folders.delete(folder);
    }
  }

  private void run() throws Exception {
    List<String> searches = new ArrayList<>();
    Random random = new Random(1);
    for (int i = 0; i < SEARCHES; i++) {
      String one = WORDS.get(skewed(random));
      String other = WORDS.get(skewed(random));
      searches.add(
          "/search/bench-http?page=%d&q=%s"
              .formatted(
                  1 + (int) Math.abs(2 * random.nextGaussian()),
                  URLEncoder.encode(one + " " + other, StandardCharsets.UTF_8)));
    }
    for (int i = 0; i < WARM; i++) {
      get(searches.get(i % searches.size()));
      get(FIXED);
    }
    Times whole = new Times();
    Times inside = new Times();
    Times fixed = new Times();
    int bytes = 0;
    for (int i = 0; i < CALLS; i++) {
      long start = System.nanoTime();
      byte[] answer = get(searches.get(i % searches.size()));
      whole.add(System.nanoTime() - start);
      inside.add((long) (JSON.readTree(answer).get("millis").asDouble() * 1e6));
      bytes += answer.length;
      start = System.nanoTime();
      get(FIXED);
      fixed.add(System.nanoTime() - start);
    }
    out.printf("two words, a facet, ten results, over HTTP:  %s%n", precise(whole));
    out.printf("the same, inside:                            %s%n", precise(inside));
    out.printf(
        "an answer that is always the same, %,6d bytes: %s%n", get(FIXED).length, precise(fixed));
    out.printf(
        "HTTP adds %.3f ms at p50 to an answer of %,d bytes%n",
        whole.quantile(0.5) - inside.quantile(0.5), bytes / CALLS);
    double all = 0;
    double same = 0;
    for (int round = 0; round < ROUNDS; round++) {
      all += rate(searches);
      same += rate(List.of(FIXED));
    }
    out.printf(
        "with %d connections: %,.0f searches/s, %,.0f answers/s that are always the same,"
            + " ratio %.2f%n",
        CONNECTIONS, all / ROUNDS, same / ROUNDS, all / same);
  }

  private static int skewed(Random random) {
    return (int) (WORDS.size() * Math.pow(random.nextDouble(), 2));
  }

  private static String precise(Times times) {
    return "p50 %.3f ms, p99 %.3f ms".formatted(times.quantile(0.5), times.quantile(0.99));
  }

  /** Answers a second, with several connections. */
  private double rate(List<String> paths) throws Exception {
    try (ExecutorService callers = Executors.newFixedThreadPool(CONNECTIONS)) {
      long end = System.nanoTime() + ROUND_NANOS;
      List<Callable<Long>> calls = new ArrayList<>();
      for (int caller = 0; caller < CONNECTIONS; caller++) {
        int first = caller;
        calls.add(
            () -> {
              long count = 0;
              while (System.nanoTime() < end) {
                get(paths.get((int) ((first + count) % paths.size())));
                count++;
              }
              return count;
            });
      }
      long count = 0;
      for (Future<Long> one : callers.invokeAll(calls)) {
        count += one.get();
      }
      return count * 1e9 / ROUND_NANOS;
    }
  }

  private byte[] get(String path) throws IOException {
    HttpURLConnection connection = (HttpURLConnection) uri.resolve(path).toURL().openConnection();
    try (InputStream in = connection.getInputStream()) {
      return in.readAllBytes();
    }
  }
}
