package org.mnemex.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BooleanSupplier;

/** What goes wrong at random with an index on several machines, one thing after the other. */
final class Faults {
  private static final int MIN_MILLIS = 300;
  private static final int MAX_MILLIS = 1800;

  /** A slow process stands still and runs in turn. */
  private static final int STILL_MILLIS = 60;

  private static final int RUNNING_MILLIS = 20;

  /** Work that may fail. */
  interface Work {
    void run() throws Exception;
  }

  /**
   * One thing that goes wrong, and is mended at the end.
   *
   * @param name what, as {@code node killed}
   */
  record Fault(String name, Work work) {}

  private final Random random;
  private final List<Fault> all = new ArrayList<>();
  private final Map<String, Integer> counts = new TreeMap<>();
  private final AtomicInteger balancerTurns = new AtomicInteger();

  /**
   * @param balancerAnswers whether a search through the load balancer is answered
   */
  Faults(
      Random random,
      List<RunningService> builders,
      List<RunningService> nodes,
      Path store,
      StruckGarden garden,
      Balancer balancer,
      BooleanSupplier balancerAnswers) {
    this.random = random;
    addProcess("node", nodes);
    addProcess("builder", builders);
    all.add(
        new Fault(
            "store away",
            () -> {
              Path away = store.resolveSibling("away");
              Files.move(store, away);
              TimeUnit.MILLISECONDS.sleep(millis(random));
              Files.move(away, store);
            }));
    all.add(
        new Fault(
            "builder killed while a node is suspended",
            () -> {
              long node = one(nodes).pid();
              RunningService builder = one(builders);
              signal("STOP", List.of(node));
              builder.kill();
              builder.restart();
              signal("CONT", List.of(node));
            }));
    all.addAll(garden.faults(random));
    addBalancer("balancer killed", balancer::restart, balancerAnswers);
    addBalancer(
        "balancer suspended", () -> suspend(List.of(balancer.pid()), random), balancerAnswers);
  }

  private void addProcess(String name, List<RunningService> services) {
    all.add(
        new Fault(
            name + " killed",
            () -> {
              RunningService service = one(services);
              service.kill();
              TimeUnit.MILLISECONDS.sleep(random.nextInt(300));
              service.restart();
            }));
    all.add(new Fault(name + " suspended", () -> suspend(List.of(one(services).pid()), random)));
    all.add(new Fault(name + " slowed", () -> slow(one(services).pid())));
  }

  private void addBalancer(String name, Work work, BooleanSupplier answers) {
    all.add(
        new Fault(
            name,
            () -> {
              balancerTurns.incrementAndGet();
              work.run();
              RunningService.await(answers);
              balancerTurns.incrementAndGet();
            }));
  }

  private RunningService one(List<RunningService> services) {
    return services.get(random.nextInt(services.size()));
  }

  /** Something goes wrong, and is well again when this returns. */
  void strike() throws Exception {
    Fault fault = all.get(random.nextInt(all.size()));
    counts.merge(fault.name, 1, Integer::sum);
    fault.work.run();
  }

  /** How often the load balancer was struck or was well again: odd while it is struck. */
  int balancerTurns() {
    return balancerTurns.get();
  }

  /** How many things went wrong. */
  int done() {
    return counts.values().stream().mapToInt(Integer::intValue).sum();
  }

  /** How often each thing went wrong. */
  @Override
  public String toString() {
    return counts.toString();
  }

  private static int millis(Random random) {
    return random.nextInt(MIN_MILLIS, MAX_MILLIS);
  }

  /** Processes stand still for a while. */
  static void suspend(List<Long> processes, Random random) throws Exception {
    signal("STOP", processes);
    TimeUnit.MILLISECONDS.sleep(millis(random));
    signal("CONT", processes);
  }

  /** For a while a process runs for a quarter of the time only. */
  private void slow(long process) throws Exception {
    for (long left = 2L * millis(random); left > 0; left -= STILL_MILLIS + RUNNING_MILLIS) {
      signal("STOP", List.of(process));
      TimeUnit.MILLISECONDS.sleep(STILL_MILLIS);
      signal("CONT", List.of(process));
      TimeUnit.MILLISECONDS.sleep(RUNNING_MILLIS);
    }
  }

  private static void signal(String name, List<Long> processes)
      throws IOException, InterruptedException {
    List<String> command = new ArrayList<>(List.of("kill", "-" + name));
    processes.forEach(process -> command.add(Long.toString(process)));
    // One of many may have ended by itself.
    new ProcessBuilder(command).redirectErrorStream(true).start().waitFor();
  }
}
