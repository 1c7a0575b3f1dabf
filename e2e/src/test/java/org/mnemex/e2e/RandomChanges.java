package org.mnemex.e2e;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.Gardener;

/**
 * Somebody who changes a garden, and a table of visits that keeps watermarks, all the time: single
 * changes in all tables, transactions of hundreds of rows, some of them taken back. What fails
 * because the database is away is not made up for; what is true is what the database says.
 */
final class RandomChanges implements AutoCloseable {
  /** Opens connections to the garden. */
  interface Opener {
    Connection open() throws SQLException;
  }

  private final Opener opener;
  private final String now;
  private final Random random;
  private final long seed;
  private final AtomicInteger done = new AtomicInteger();
  private @Nullable Connection connection;
  private @Nullable Gardener gardener;

  /**
   * @param now the database's expression for this moment, as its watermarks have it
   */
  RandomChanges(Opener opener, String now, long seed) {
    this.opener = opener;
    this.now = now;
    this.seed = seed;
    this.random = new Random(seed);
  }

  /** How many changes were made or tried. */
  int done() {
    return done.get();
  }

  /**
   * Makes so many changes, in bursts and with pauses, so that kills meet small and large batches.
   */
  void make(int changes) throws InterruptedException {
    for (int i = 0; i < changes; i++) {
      try {
        change();
      } catch (SQLException e) {
        leave();
        TimeUnit.MILLISECONDS.sleep(random.nextInt(50));
      }
      done.incrementAndGet();
      if (random.nextInt(25) == 0) {
        TimeUnit.MILLISECONDS.sleep(random.nextInt(100));
      }
    }
  }

  private void change() throws SQLException {
    Connection open = connection;
    if (open == null) {
      open = opener.open();
      connection = open;
      gardener = new Gardener(open, seed + done.get(), Clock.systemUTC());
    }
    int which = random.nextInt(100);
    if (which < 80 && gardener != null) {
      gardener.change();
    } else if (which < 97) {
      visit(open);
    } else {
      much(open);
    }
  }

  private void visit(Connection open) throws SQLException {
    int id = random.nextInt(400);
    try (Statement statement = open.createStatement()) {
      int found =
          random.nextInt(6) == 0
              ? statement.executeUpdate(
                  "UPDATE guide SET name = 'Guide %d', changed_at = %s WHERE id = %d"
                      .formatted(random.nextInt(1000), now, random.nextInt(9)))
              : statement.executeUpdate(
                  "UPDATE visit SET guide_id = %d, said = 'Saw %d', gone = %d, changed_at = %s WHERE id = %d"
                      .formatted(
                          random.nextInt(9), random.nextInt(1000), random.nextInt(5) / 4, now, id));
      if (found == 0) {
        statement.executeUpdate(
            "INSERT INTO visit (id, guide_id, said, gone, changed_at) VALUES (%d, %d, 'Came', 0, %s)"
                .formatted(id, random.nextInt(9), now));
      }
    }
  }

  /** Hundreds of rows at once; a third of the time all of it is taken back. */
  private void much(Connection open) throws SQLException {
    open.setAutoCommit(false);
    try (Statement statement = open.createStatement()) {
      for (int i = random.nextInt(3); i >= 0; i--) {
        statement.executeUpdate(
            switch (random.nextInt(5)) {
              case 0 -> "UPDATE accession SET visitor_interest = visitor_interest + 1";
              case 1 ->
                  "INSERT INTO sighting (accession_no, seen_on, observer, kind, text) SELECT"
                      + " accession_no, '2026-01-01', 'Ida Moss', 'growth', 'Grows well' FROM accession"
                      + " WHERE status = 'nursery'";
              case 2 -> "DELETE FROM sighting WHERE kind = 'growth' AND observer = 'Ida Moss'";
              case 3 -> "UPDATE family SET name = name || '.' WHERE length(name) < 40";
              default -> "UPDATE visit SET said = said || '!', changed_at = " + now;
            });
      }
      if (random.nextInt(3) == 0) {
        open.rollback();
      } else {
        open.commit();
      }
    }
    open.setAutoCommit(true);
  }

  private void leave() {
    Connection open = connection;
    connection = null;
    gardener = null;
    try {
      if (open != null) {
        open.close();
      }
    } catch (SQLException e) {
      // It was broken.
    }
  }

  @Override
  public void close() {
    leave();
  }
}
