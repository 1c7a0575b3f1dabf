package org.mnemex.sync.postgres;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.stream.Collectors;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.ShrinkingMode;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.shared.WindowLimits;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReaderPositions;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/** Several readers of one log: each gets its changes once and in order, whatever others do. */
class SharedLogTest {
  private static final Duration SOON = Duration.ofMillis(20);
  private static final Duration LONG = Duration.ofSeconds(30);
  private static final List<String> TABLES =
      List.of("plant", "lot", "note", "family", "place", "label");
  private static final int TRIES = 12;
  private static final int STEPS = 120;

  /** So small that readers fall behind. */
  private static final WindowLimits TIGHT = new WindowLimits(40, Duration.ofMillis(20));

  @Property(tries = TRIES, shrinking = ShrinkingMode.OFF)
  void eachReaderGetsItsChangesOnceAndInOrder(@ForAll long seed) throws Exception {
    new Model().play(new Random(seed));
  }

  @Test
  void aReaderWithASlotOfItsOwnReadsThatToItsEndAndDropsIt() throws Exception {
    Model model = new Model();
    model.source.prepare(Map.of("plant", Set.of("id")));
    Position first = model.oldSlot("old");
    model.insert("plant", 70);
    Model.Reader old = model.new Reader("old", "plant", first);
    model.readers.add(old);
    Model.Reader other = model.new Reader("new", "plant");
    assertThat(model.slots()).isEqualTo(2);
    model.insert("plant", 3);
    other.drain();
    old.drain();
    // The second time, nothing is left to be read from it.
    old.commit();
    model.restart();
    old.drain();
    old.commit();
    assertThat(model.slots()).isEqualTo(1);
    model.insert("plant", 3);
    old.drain();
    other.drain();
    model.leave();
  }

  /** As an index that could not be started with the others: nobody has watched its table so far. */
  @Test
  void aReaderThatComesLaterMissesNothing() throws Exception {
    Model model = new Model();
    Model.Reader one = model.new Reader("one", "plant");
    Model.Reader late = model.new Reader("late", "lot");
    model.restart();
    model.insert("lot", 3);
    model.insert("plant", 3);
    one.drain();
    late.crash();
    model.insert("plant", 3);
    one.drain();
    late.drain();
    one.commit();
    late.commit();
    model.leave();
  }

  /** As while a new edition is filled because the definition of its source has changed. */
  @Test
  void twoObjectsForOneDatabaseGetAlongWithOneSlot() throws Exception {
    Model model = new Model();
    Model.Reader one = model.new Reader("one", "plant");
    model.insert("plant", 5);
    one.drain();
    model.source = new PostgresSource(model.definition, model.positions, TIGHT);
    Model.Reader other = model.new Reader("other", "plant");
    model.insert("plant", 50);
    other.drain();
    one.drain();
    one.commit();
    other.commit();
    assertThat(model.slots()).isEqualTo(1);
    model.readers.remove(one);
    one.capture.leave();
    model.insert("plant", 5);
    other.drain();
    model.leave();
  }

  /**
   * A position may be where no transaction ends. The next one is so large that the window cannot
   * hold it, and all readers would have to read it for themselves if they missed its beginning.
   */
  @Test
  void aReaderThatStoppedBetweenTransactionsGoesOnWithTheOthers() throws Exception {
    Model model = new Model();
    Model.Reader one = model.new Reader("one", "plant");
    model.insert("plant", 3);
    one.drain();
    Position before = one.at;
    model.run("CHECKPOINT");
    while (one.at.number() == before.number()) {
      one.take(10, SOON);
    }
    assertThat(one.at.mark()).isEqualTo(before.mark());
    one.committed = one.at;
    one.capture.close();
    model.insert("plant", 5 * TIGHT.room());
    one.crash();
    while (one.seen.size() < one.expected().size()) {
      one.take(10, LONG);
      assertThat(model.ask("SELECT count(*) FROM pg_replication_slots WHERE temporary")).isZero();
    }
    one.drain();
    model.leave();
  }

  /** A database, its readers, and what they should have got. */
  private static final class Model {
    private final SourceDefinition.Server definition;
    private final String installation = "s" + Long.toString(System.nanoTime(), 36);
    private final Connection connection;
    private final Map<String, List<Long>> inserted = new HashMap<>();
    private final List<Reader> readers = new ArrayList<>();
    private ReaderPositions positions = new ReaderPositions(new Known());
    private PostgresSource source;
    private long lastId;

    Model() throws Exception {
      definition = TestServers.newPostgres();
      connection = TestServers.connect(definition);
      for (String table : TABLES) {
        run("CREATE TABLE " + table + " (id bigint PRIMARY KEY, text text)");
        inserted.put(table, new ArrayList<>());
      }
      source = new PostgresSource(definition, positions, TIGHT);
    }

    private void run(String sql) throws SQLException {
      try (Statement statement = connection.createStatement()) {
        statement.execute(sql);
      }
    }

    private long ask(String sql) throws SQLException {
      try (Statement statement = connection.createStatement();
          ResultSet rows = statement.executeQuery(sql)) {
        rows.next();
        return rows.getLong(1);
      }
    }

    private long slots() throws SQLException {
      return ask(
          "SELECT count(*) FROM pg_replication_slots WHERE NOT temporary AND slot_name LIKE '%"
              + installation
              + "'");
    }

    /** All readers exist, also those that are not open. */
    private final class Known implements ReaderPositions.Existing {
      @Override
      public boolean areKnown() {
        return true;
      }

      @Override
      public Set<String> at(String source) {
        return readers.stream().map(reader -> reader.name).collect(Collectors.toSet());
      }
    }

    /** A reader of one table, with what a crash leaves of it. */
    private final class Reader {
      private final String name;
      private final String table;
      private final int missed;
      private final List<Change> seen = new ArrayList<>();
      private Source.Capture capture;
      private boolean isOpen = true;
      private Position at;
      private Position committed;

      Reader(String name, String table) throws Exception {
        this(name, table, null);
        at = capture.now();
        committed = at;
        capture.done(at);
        readers.add(this);
      }

      /** A reader that had a position before, and is not known to the others yet. */
      Reader(String name, String table, Position position) throws Exception {
        this.name = name + "@" + installation;
        this.table = table;
        source.prepare(columns());
        capture = source.capture(this.name, columns());
        missed = position == null ? inserted.get(table).size() : 0;
        at = position;
        committed = position;
      }

      Map<String, Set<String>> columns() {
        return Map.of(table, Set.of("id"));
      }

      void take(int limit, Duration wait) throws Exception {
        if (!isOpen) {
          crash();
        }
        Changes changes;
        try {
          changes = capture.after(at, limit, wait);
        } catch (SourceUnavailableException e) {
          // Another connection still uses its slot; a feed would try again, too.
          capture.close();
          forget(at);
          return;
        }
        if (!changes.list().isEmpty() && seen.contains(changes.list().getFirst())) {
          // A transaction that was cut, and that others did not wait for.
          forget(at);
        }
        seen.addAll(changes.list());
        at = changes.upTo();
      }

      void commit() throws Exception {
        if (!isOpen) {
          return;
        }
        committed = at;
        capture.done(at);
      }

      /** What was handed out after a position comes again. */
      void forget(Position position) {
        seen.removeIf(c -> Long.compareUnsigned(c.position().number(), position.number()) >= 0);
        at = position;
      }

      void crash() {
        isOpen = true;
        capture.close();
        capture = source.capture(name, columns());
        forget(committed);
        capture.continueFrom(committed);
      }

      List<Long> ids() {
        return seen.stream().map(change -> (Long) change.columns().get("id")).toList();
      }

      List<Long> expected() {
        return inserted.get(table).subList(missed, inserted.get(table).size());
      }

      void drain() throws Exception {
        long deadline = System.nanoTime() + LONG.toNanos();
        while (seen.size() < expected().size() && System.nanoTime() < deadline) {
          take(1000, SOON);
        }
        take(1000, SOON);
        assertThat(ids().toString()).as(name).isEqualTo(expected().toString());
      }
    }

    private void insert(String table, int rows) throws SQLException {
      StringBuilder values = new StringBuilder();
      for (int i = 0; i < rows; i++) {
        values.append(i == 0 ? "" : ", ").append("(").append(++lastId).append(", 'x')");
        inserted.get(table).add(lastId);
      }
      run("INSERT INTO " + table + " VALUES " + values);
    }

    /** All readers lose what they have not committed, and a new process goes on. */
    private void restart() {
      readers.forEach(reader -> reader.capture.close());
      positions = new ReaderPositions(new Known());
      source = new PostgresSource(definition, positions, TIGHT);
      // The last one is opened when it is asked for, as an index that could not be started.
      readers.subList(0, readers.size() - 1).forEach(Reader::crash);
      readers.getLast().isOpen = false;
    }

    void play(Random random) throws Exception {
      new Reader("first", "plant");
      for (int step = 0; step < STEPS; step++) {
        Reader any = readers.get(random.nextInt(readers.size()));
        switch (random.nextInt(12)) {
          case 0, 1, 2 -> insert(TABLES.get(random.nextInt(TABLES.size())), 1 + random.nextInt(5));
          case 3 -> insert(TABLES.get(random.nextInt(TABLES.size())), 30 + random.nextInt(60));
          case 4, 5, 6, 7 -> any.take(1 + random.nextInt(40), SOON);
          case 8 -> any.commit();
          case 9 -> any.crash();
          case 10 -> {
            if (readers.size() < 5) {
              new Reader("r" + readers.size(), TABLES.get(random.nextInt(TABLES.size())));
            }
          }
          default -> {
            if (random.nextInt(4) == 0) {
              restart();
            } else {
              any.take(1000, SOON);
            }
          }
        }
        assertThat(slots()).isEqualTo(1);
      }
      for (Reader reader : readers) {
        reader.drain();
      }
      leave();
    }

    /** The slot is there as long as somebody needs it. */
    void leave() throws Exception {
      while (!readers.isEmpty()) {
        assertThat(slots()).isEqualTo(1);
        readers.removeFirst().capture.leave();
      }
      assertThat(slots()).isZero();
      connection.close();
    }

    /** The slot and position of a reader of an earlier version. */
    Position oldSlot(String name) throws Exception {
      String slot = SlotNames.slot(name + "@" + installation);
      run("SELECT pg_create_logical_replication_slot('" + slot + "', 'pgoutput')");
      try (Source.Capture asking = source.capture("asking")) {
        return new Position(
            asking.last().history(),
            ask(
                "SELECT (confirmed_flush_lsn - '0/0')::bigint FROM pg_replication_slots"
                    + " WHERE slot_name = '"
                    + slot
                    + "'"),
            "0.0");
      }
    }
  }
}
