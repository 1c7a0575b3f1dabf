package org.mnemex.bench.engine;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.PriorityQueue;
import java.util.Random;

/**
 * A simulation of search nodes that share an index: groups of shards are at several nodes each, any
 * node is the front of a search and asks a node of each other group, and each node has processors
 * that do one thing after another. All times are in milliseconds.
 */
final class ManyNodes {
  /** As search nodes do. */
  private static final double LEAST_MILLIS = 10;

  private static final double TIMES_SLOWER = 2;
  private static final double TWICE = 0.05;
  private static final double MAX_TWICE = 1000;

  /** Of the searches, so many at the beginning are not counted. */
  private static final double WARM_UP = 0.1;

  /**
   * What is taken as given.
   *
   * @param groups groups of shards that are together at a node
   * @param copies nodes of each group
   * @param processors of each node
   * @param call processor time of a call at each of the two nodes
   * @param network from one node to another and back
   * @param pause how long a node stands still at times
   * @param between how far pauses of a node are apart, on average
   */
  record Assumptions(
      int groups,
      int copies,
      int processors,
      double call,
      double network,
      double pause,
      double between) {
    int nodes() {
      return groups * copies;
    }
  }

  /**
   * A search that was measured.
   *
   * @param part processor time in a group of shards
   * @param merge processor time of the front besides calls
   */
  record Cost(double part, double merge) {}

  /**
   * What came of it.
   *
   * @param load the share of all processor time that was used
   * @param twice the share of calls that were asked twice
   * @param times of the searches, in order
   */
  record Outcome(double load, double twice, double[] times) {
    double percentile(double share) {
      return times[(int) Math.min(times.length - 1L, Math.round(share * times.length))];
    }
  }

  private final Assumptions given;
  private final List<Cost> costs;
  private final double[] variation;
  private final boolean isHedging;
  private final Random random = new Random(11);
  private final PriorityQueue<Event> events = new PriorityQueue<>();
  private final double[][] free;
  private long order;
  private double busy;
  private double now;
  private long calls;
  private long twice;
  private final double[] allowed;

  private ManyNodes(Assumptions given, List<Cost> costs, double[] variation, boolean isHedging) {
    this.given = given;
    this.costs = costs;
    this.variation = variation;
    this.isHedging = isHedging;
    this.free = new double[given.nodes()][given.processors];
    this.allowed = new double[given.nodes()];
    Arrays.fill(allowed, MAX_TWICE);
  }

  /** Something that happens at a moment; of the same moment, what was noted first. */
  private record Event(double at, long order, Runnable what) implements Comparable<Event> {
    @Override
    public int compareTo(Event other) {
      int byTime = Double.compare(at, other.at);
      return byTime == 0 ? Long.compare(order, other.order) : byTime;
    }
  }

  /**
   * Simulates.
   *
   * @param costs searches, any of which is as frequent as another
   * @param variation how much longer or shorter a part takes than that of another group
   * @param apart how far searches are apart on average
   * @param searches how many
   */
  static Outcome run(
      Assumptions given,
      List<Cost> costs,
      double[] variation,
      boolean isHedging,
      double apart,
      int searches) {
    return new ManyNodes(given, costs, variation, isHedging).run(apart, searches);
  }

  private Outcome run(double apart, int searches) {
    List<Double> times = new ArrayList<>();
    double start = 0;
    for (int i = 0; i < searches; i++) {
      start += exponential(apart);
      boolean counts = i > WARM_UP * searches;
      double begun = start;
      at(start, () -> new Search(begun, counts ? times : new ArrayList<>()).begin());
    }
    double last = start;
    for (int node = 0; node < given.nodes(); node++) {
      pauseLater(node, last);
    }
    while (!events.isEmpty()) {
      Event next = events.remove();
      now = next.at;
      next.what.run();
    }
    double[] sorted = times.stream().mapToDouble(Double::doubleValue).sorted().toArray();
    return new Outcome(
        busy / (now * given.nodes() * given.processors), (double) twice / calls, sorted);
  }

  private void at(double moment, Runnable what) {
    events.add(new Event(moment, order++, what));
  }

  private double exponential(double mean) {
    return -mean * Math.log(1 - random.nextDouble());
  }

  /** Lets a node stand still from time to time: nothing new begins. */
  private void pauseLater(int node, double last) {
    double moment = now + exponential(given.between);
    if (moment < last) {
      at(
          moment,
          () -> {
            Arrays.setAll(free[node], i -> Math.max(free[node][i], now) + given.pause);
            pauseLater(node, last);
          });
    }
  }

  /** Does some work at a node as soon as it has a processor for it. */
  private void work(int node, double millis, Runnable then) {
    double[] processors = free[node];
    int first = 0;
    for (int i = 1; i < processors.length; i++) {
      first = processors[i] < processors[first] ? i : first;
    }
    double start = Math.max(now, processors[first]);
    processors[first] = start + millis;
    busy += millis;
    at(start + millis, then);
  }

  /** One search. */
  private final class Search {
    private final double begun;
    private final List<Double> times;
    private final int front = random.nextInt(given.nodes());
    private final Cost cost = costs.get(random.nextInt(costs.size()));
    private final boolean[] isTold = new boolean[given.groups];
    private final int[] copies = new int[given.groups];
    private int answered;

    Search(double begun, List<Double> times) {
      this.begun = begun;
      this.times = times;
    }

    void begin() {
      for (int group = 0; group < given.groups; group++) {
        int asked = group;
        if (group == front % given.groups) {
          work(front, part(), () -> told(asked));
        } else {
          copies[group] = random.nextInt(given.copies);
          calls++;
          work(front, given.call, () -> ask(asked, copies[asked]));
        }
      }
    }

    private double part() {
      return cost.part * variation[random.nextInt(variation.length)];
    }

    private void ask(int group, int copy) {
      int node = group + copy * given.groups;
      Runnable back = () -> at(now + given.network / 2, () -> told(group));
      at(now + given.network / 2, () -> work(node, given.call + part(), back));
    }

    private void told(int group) {
      if (isTold[group]) {
        return;
      }
      isTold[group] = true;
      answered++;
      allowed[front] = Math.min(MAX_TWICE, allowed[front] + TWICE * (now - begun));
      if (answered == given.groups) {
        work(front, cost.merge, () -> times.add(now - begun));
      } else if (answered == given.groups / 2 && isHedging && given.copies > 1) {
        double half = now - begun;
        at(begun + Math.max(LEAST_MILLIS, TIMES_SLOWER * half), () -> askTwice(half));
      }
    }

    private void askTwice(double half) {
      for (int group = 0; group < given.groups; group++) {
        if (!isTold[group] && group != front % given.groups && allowed[front] >= half) {
          allowed[front] -= half;
          twice++;
          ask(group, (copies[group] + 1) % given.copies);
        }
      }
    }
  }
}
