package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.SplittableRandom;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.random.RandomGenerator;
import jdk.jfr.consumer.RecordedFrame;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Visitors;

/** Lets visitors search: what recording their searches costs, and what a report then says. */
final class VisitBench {
  private static final String ENDPOINT = "plant-search";
  private static final int AT_A_TIME = 4;
  private static final int ROUNDS = 31;
  private static final int WARM_UP_ROUNDS = 4;
  private static final int VISITS_A_ROUND = 2_000;
  private static final int SAMPLED_VISITS = 20_000;

  private final PrintStream out;
  private final Visitors visitors = new Visitors();
  private final AtomicInteger seeds = new AtomicInteger();

  VisitBench(PrintStream out) {
    this.out = out;
  }

  /** Compares what searches cost in a service that records them and in one that does not. */
  void compare(ServiceProcess recording, ServiceProcess other) {
    Rounds with = new Rounds(recording);
    Rounds without = new Rounds(other);
    for (int round = -WARM_UP_ROUNDS; round < ROUNDS; round++) {
      int seed = seeds.incrementAndGet();
      boolean recordingFirst = round % 2 == 0;
      (recordingFirst ? with : without).search(round, seed);
      (recordingFirst ? without : with).search(round, seed);
    }
    out.printf(
        "searches a second: %,.0f recorded, %,.0f not recorded, ratio %.3f%n"
            + "processor time of a search: %.3f ms recorded, %.3f ms not recorded, ratio %.3f%n"
            + "(medians of %d interleaved rounds of %,d searches, and of their ratios)%n",
        median(with.rates),
        median(without.rates),
        median(ratios(with.rates, without.rates)),
        median(with.processorMillis),
        median(without.processorMillis),
        median(ratios(with.processorMillis, without.processorMillis)),
        ROUNDS,
        VISITS_A_ROUND);
  }

  /**
   * Says what part of the service's processor time recording takes, by samples of its stacks: the
   * same code is compiled a little differently in each process, which makes more of a difference
   * between two services than recording does.
   */
  void share(ServiceProcess recording) throws IOException, InterruptedException {
    FlightRecording flight =
        new FlightRecording(
            recording, "jdk.CPUTimeSample#enabled=true", "jdk.CPUTimeSample#throttle=5ms");
    run(recording.client(), SAMPLED_VISITS, seeds.incrementAndGet(), new Span(0, 1), false);
    AtomicInteger all = new AtomicInteger();
    AtomicInteger ours = new AtomicInteger();
    flight.end(
        "jdk.CPUTimeSample",
        frames -> {
          all.incrementAndGet();
          if (frames.stream().anyMatch(VisitBench::records)) {
            ours.incrementAndGet();
          }
        });
    out.printf(
        "recording: %.1f%% of the processor time of all that is not compiling or collecting"
            + " (%,d of %,d samples in %,d searches)%n",
        100.0 * ours.get() / Math.max(1, all.get()), ours.get(), all.get(), SAMPLED_VISITS);
  }

  private static boolean records(RecordedFrame frame) {
    return frame.getMethod().getType().getName().startsWith("org.mnemex.service.insight.");
  }

  /** The rounds of searches of a service: searches a second, and processor time of a search. */
  private final class Rounds {
    private final ServiceProcess service;
    private final double[] rates = new double[ROUNDS];
    private final double[] processorMillis = new double[ROUNDS];

    Rounds(ServiceProcess service) {
      this.service = service;
    }

    void search(int round, int seed) {
      double busy = service.processorSeconds();
      long start = System.nanoTime();
      run(service.client(), VISITS_A_ROUND, seed, new Span(0, 1), false);
      if (round >= 0) {
        rates[round] = VISITS_A_ROUND / ((System.nanoTime() - start) / 1e9);
        processorMillis[round] = (service.processorSeconds() - busy) * 1e3 / VISITS_A_ROUND;
      }
    }
  }

  private static double[] ratios(double[] numbers, double[] others) {
    double[] ratios = new double[numbers.length];
    Arrays.setAll(ratios, i -> numbers[i] / others[i]);
    return ratios;
  }

  /**
   * A part of the way from autumn to spring.
   *
   * @param from 0 for autumn to 1 for spring
   * @param to likewise
   */
  record Span(double from, double to) {
    private double at(double part) {
      return from + part * (to - from);
    }
  }

  /** Lets so many visitors search and open results. */
  void visit(MnemexClient client, int visits, Span season) {
    long start = System.nanoTime();
    run(client, visits, seeds.incrementAndGet(), season, true);
    double seconds = (System.nanoTime() - start) / 1e9;
    out.printf("%,d visits in %.0f s: %,.0f a second%n", visits, seconds, visits / seconds);
  }

  private void run(MnemexClient client, int visits, int seed, Span season, boolean open) {
    AtomicInteger done = new AtomicInteger();
    try (ExecutorService threads = Executors.newFixedThreadPool(AT_A_TIME)) {
      List<Future<?>> running = new ArrayList<>();
      for (int i = 0; i < AT_A_TIME; i++) {
        RandomGenerator random = new SplittableRandom(seed * (long) AT_A_TIME + i);
        running.add(
            threads.submit(
                () -> {
                  for (int at = done.getAndIncrement(); at < visits; at = done.getAndIncrement()) {
                    visit(client, visitors.visit(season.at((double) at / visits), random), open);
                  }
                }));
      }
      for (Future<?> one : running) {
        one.get();
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    } catch (ExecutionException e) {
      throw new IllegalStateException(e.getCause());
    }
  }

  private static void visit(MnemexClient client, Visitors.Visit visit, boolean open) {
    // Counting facets would hide what recording costs.
    SearchQuery query = SearchQuery.words(visit.words()).counts(List.of()).highlights(false);
    for (var choice : visit.chosen().entrySet()) {
      query = query.choose(choice.getKey(), choice.getValue());
    }
    SearchAnswer answer = client.search(ENDPOINT, query);
    String id = answer.id();
    if (open && id != null && visit.opens() > 0 && visit.opens() <= answer.results().size()) {
      client.chosen(ENDPOINT, id, answer.results().get(visit.opens() - 1).key(), visit.opens());
    }
  }

  private static double median(double[] numbers) {
    double[] sorted = numbers.clone();
    Arrays.sort(sorted);
    return sorted[sorted.length / 2];
  }
}
