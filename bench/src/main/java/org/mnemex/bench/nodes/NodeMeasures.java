package org.mnemex.bench.nodes;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.Supplier;
import java.util.function.ToLongFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.bench.ServiceProcess;
import org.mnemex.bench.Times;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.StoreStatus;
import org.mnemex.client.UnreachableException;

/**
 * What is measured of search nodes: how soon they start, how fast they search, how soon a change is
 * there, and what they and their builders use of the store.
 */
final class NodeMeasures {
  private static final int WORD_LENGTH = 12;
  private static final int MAX_PAUSE_MILLIS = 1000;
  private static final long POLL_MILLIS = 5;
  private static final long WATCHED_MILLIS = 60_000;
  private static final double DAY_MILLIS = 86_400_000;
  private static final double MB = 1e6;

  private final PrintStream out;
  private final Subject subject;
  private final int searches;
  private final int changes;

  /**
   * @param searches how many of a kind count
   * @param changes how many are waited for
   */
  NodeMeasures(PrintStream out, Subject subject, int searches, int changes) {
    this.out = out;
    this.subject = subject;
    this.searches = searches;
    this.changes = changes;
  }

  /** Starts a node and prints how long it takes until it answers. */
  ServiceProcess start(String what, Path folder, Map<String, String> environment)
      throws IOException, InterruptedException {
    long begun = System.nanoTime();
    ServiceProcess node = ServiceProcess.start(folder, environment);
    awaitAnswers(node.client());
    out.printf("%s answers after %.1f s%n", what, (System.nanoTime() - begun) / 1e9);
    return node;
  }

  /** Waits until a node has something to answer with. */
  void awaitAnswers(MnemexClient node) throws InterruptedException {
    while (!answers(node)) {
      Thread.sleep(POLL_MILLIS);
    }
  }

  private boolean answers(MnemexClient node) {
    try {
      return node.search(subject.endpoint(), SearchQuery.words(subject.word())).found() > 0;
    } catch (ProblemException | UnreachableException e) {
      return false;
    }
  }

  /**
   * Searches the same at several services in turn, first as often without counting it, and prints
   * how long that takes and how many answers differed.
   *
   * @param services by what they are printed as
   */
  void searches(String what, Map<String, MnemexClient> services, Supplier<SearchQuery> queries) {
    Map<String, Times> times = new LinkedHashMap<>();
    services.keySet().forEach(name -> times.put(name, new Times()));
    int differing = 0;
    for (int i = 0; i < 2 * searches; i++) {
      SearchQuery query = queries.get();
      List<List<Object>> found = new ArrayList<>();
      for (Map.Entry<String, MnemexClient> service : services.entrySet()) {
        long start = System.nanoTime();
        SearchAnswer answer = service.getValue().search(subject.endpoint(), query);
        if (i >= searches) {
          times.get(service.getKey()).add(System.nanoTime() - start);
        }
        SearchAnswer.Total total = answer.total();
        found.add(
            List.of(
                // Without an exact total, each may stop counting where it likes.
                total != null && total.exact() ? total : "",
                answer.facets(),
                answer.results().stream().map(SearchAnswer.Result::key).toList()));
      }
      differing += found.stream().distinct().count() == 1 ? 0 : 1;
    }
    times.forEach((name, durations) -> out.printf("%s, %s: %s%n", what, name, durations));
    out.printf("  %d of %d answers differed%n", differing, 2 * searches);
  }

  /**
   * Changes a record and looks for it at two services.
   *
   * @param builder has all records
   * @param builders whose use of the store is added up
   */
  void changes(MnemexClient builder, MnemexClient node, List<MnemexClient> builders)
      throws Exception {
    try (Connection connection = subject.connect();
        PreparedStatement update = connection.prepareStatement(subject.change());
        ExecutorService watching = Executors.newFixedThreadPool(2)) {
      Times there = new Times();
      Times here = new Times();
      Random random = new Random(1);
      for (int i = 0; i < changes; i++) {
        // Far from each other, so that none is found as a misspelling of another.
        String word =
            random
                .ints(WORD_LENGTH, 'a', 'z' + 1)
                .collect(StringBuilder::new, StringBuilder::appendCodePoint, StringBuilder::append)
                .toString();
        update.setString(1, "Beside the " + word);
        update.executeUpdate();
        long changed = System.nanoTime();
        List<Callable<Boolean>> both =
            List.of(watch(builder, word, changed, here), watch(node, word, changed, there));
        for (Future<Boolean> one : watching.invokeAll(both)) {
          one.get();
        }
        Thread.sleep(random.nextInt(MAX_PAUSE_MILLIS));
      }
      out.printf("a change is found at the builder: %s%n", here);
      out.printf("the same at the node:             %s%n", there);
      use("nothing changes", builders, node, null);
      use("five changes a second", builders, node, update);
    }
  }

  private Callable<Boolean> watch(MnemexClient client, String word, long changed, Times times) {
    return () -> {
      while (client.search(subject.endpoint(), SearchQuery.words(word)).found() == 0) {
        Thread.sleep(POLL_MILLIS);
      }
      times.add(System.nanoTime() - changed);
      return true;
    };
  }

  private void use(
      String when,
      List<MnemexClient> builders,
      MnemexClient node,
      @Nullable PreparedStatement update)
      throws InterruptedException, SQLException {
    List<StoreStatus.Traffic> buildersBefore = traffic(builders);
    List<StoreStatus.Traffic> nodeBefore = traffic(List.of(node));
    long begun = System.nanoTime();
    int made = 0;
    while (System.nanoTime() - begun < WATCHED_MILLIS * 1_000_000) {
      Thread.sleep(200);
      if (update != null) {
        update.setString(1, "Changed " + made++);
        update.executeUpdate();
      }
    }
    double days = (System.nanoTime() - begun) / 1e6 / DAY_MILLIS;
    out.printf("in a day in which %s:%n", when);
    String who =
        builders.size() == 1 ? "the builder" : "the %d builders".formatted(builders.size());
    print(who, buildersBefore, traffic(builders), days);
    print("a node", nodeBefore, traffic(List.of(node)), days);
  }

  private void print(
      String who, List<StoreStatus.Traffic> before, List<StoreStatus.Traffic> after, double days) {
    out.printf(
        "  %-15s %,.0f requests, %,.0f MB read, %,.0f MB written%n",
        who + ":",
        grown(before, after, StoreStatus.Traffic::requests) / days,
        grown(before, after, StoreStatus.Traffic::readBytes) / MB / days,
        grown(before, after, StoreStatus.Traffic::writtenBytes) / MB / days);
  }

  private static long grown(
      List<StoreStatus.Traffic> before,
      List<StoreStatus.Traffic> after,
      ToLongFunction<StoreStatus.Traffic> what) {
    return after.stream().mapToLong(what).sum() - before.stream().mapToLong(what).sum();
  }

  private static List<StoreStatus.Traffic> traffic(List<MnemexClient> clients) {
    return clients.stream()
        .map(
            client -> {
              StoreStatus.Traffic traffic = client.store().traffic();
              if (traffic == null) {
                throw new IllegalStateException("there is no store");
              }
              return traffic;
            })
        .toList();
  }
}
