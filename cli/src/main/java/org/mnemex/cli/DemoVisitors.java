package org.mnemex.cli;

import java.time.LocalDate;
import java.time.ZoneId;
import java.util.SplittableRandom;
import java.util.random.RandomGenerator;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.UnreachableException;
import org.mnemex.garden.Visitors;

/** Visitors of the demo garden's website, who search and open what they find. */
final class DemoVisitors implements Runnable {
  /** One after the other, no more can search a second. */
  static final int MOST = 100;

  private static final int SPRING_ENDS = 6;

  private final MnemexClient client;
  private final double perSecond;
  private final Visitors visitors = new Visitors();
  private final RandomGenerator random = new SplittableRandom();

  DemoVisitors(MnemexClient client, double perSecond) {
    this.client = client;
    this.perSecond = perSecond;
  }

  @Override
  public void run() {
    try {
      while (true) {
        // People do not come in step.
        Thread.sleep((long) (1000 * random.nextExponential() / perSecond));
        visit(
            visitors.visit(
                LocalDate.now(ZoneId.systemDefault()).getMonthValue() > SPRING_ENDS ? 0 : 1,
                random));
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private void visit(Visitors.Visit visit) {
    SearchQuery query = SearchQuery.words(visit.words());
    for (var choice : visit.chosen().entrySet()) {
      query = query.choose(choice.getKey(), choice.getValue());
    }
    try {
      SearchAnswer answer = client.search("plant-search", query);
      String id = answer.id();
      if (id != null && visit.opens() > 0 && visit.opens() <= answer.results().size()) {
        String key = answer.results().get(visit.opens() - 1).key();
        client.chosen("plant-search", id, key, visit.opens());
      }
    } catch (ProblemException | UnreachableException e) {
      // Visitors come again: the endpoint may be changing, and the end of the demo is told by it.
    }
  }
}
