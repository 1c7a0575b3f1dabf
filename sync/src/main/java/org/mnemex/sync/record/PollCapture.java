package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Polls for rows with a new watermark, a column with the time of the last change.
 *
 * <h2>Positions</h2>
 *
 * <p>A position is the moment of a look, in microseconds since 1970 by the database's clock. The
 * next look starts some time before that moment (the overlap), because a transaction may take that
 * long from change to commit. Every look hands out all rows of the overlap: a watermark does not
 * show whether a row was changed again, in the same second or by a transaction that started early.
 * Unchanged records are not written.
 *
 * <p>A look reads one table after another, in the order of the watermark and in portions, so that
 * memory stays bounded however much has changed.
 */
final class PollCapture implements Source.Capture {
  private static final String HISTORY = "poll";

  private final SqlSource source;
  private final SourceDefinition.Poll poll;
  private final Map<String, Set<String>> columns;
  private final KeptConnection connection;
  private final Map<String, Watermark> watermarks = new HashMap<>();
  private @Nullable Position next;
  private @Nullable Look look;
  private long nextLook;

  /** A look in progress. */
  private static final class Look {
    final long from;
    final Position upTo;
    final Deque<Watermark> left;
    @Nullable List<Object> last;

    Look(long from, Position upTo, Deque<Watermark> left) {
      this.from = from;
      this.upTo = upTo;
      this.left = left;
    }
  }

  /**
   * @param columns the columns to hand out, by table; other tables are not looked at
   */
  PollCapture(SqlSource source, SourceDefinition.Poll poll, Map<String, Set<String>> columns) {
    this.source = source;
    this.poll = poll;
    this.columns = columns;
    this.connection = new KeptConnection(source, open -> open, this::forget);
  }

  @Override
  public Position now() throws SourceUnavailableException {
    return connection.use(c -> new Position(HISTORY, micros(c)));
  }

  @Override
  public Position last() throws SourceUnavailableException {
    return now();
  }

  private long micros(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT " + source.sql().nowMicros())) {
      rows.next();
      return rows.getLong(1);
    }
  }

  @Override
  public Changes after(Position position, int limit, Duration wait)
      throws SourceUnavailableException, InterruptedException {
    if (!position.equals(next)) {
      look = null;
      nextLook = System.nanoTime();
    }
    Look now = look;
    if (now == null) {
      long left = nextLook - System.nanoTime();
      TimeUnit.NANOSECONDS.sleep(Math.clamp(left, 0, wait.toNanos()));
      if (left > wait.toNanos()) {
        next = position;
        return new Changes(List.of(), position, false);
      }
      nextLook = System.nanoTime() + poll.every().toNanos();
      now = connection.use(c -> begin(c, position));
      look = now;
    }
    Look going = now;
    List<Change> changes = new ArrayList<>();
    while (changes.size() < limit && !going.left.isEmpty()) {
      connection.use(
          c -> {
            read(c, going, limit - changes.size(), changes);
            return true;
          });
    }
    boolean done = going.left.isEmpty();
    if (done) {
      look = null;
    }
    next = done ? going.upTo : position;
    return new Changes(changes, next, done);
  }

  private Look begin(Connection c, Position position) throws SQLException {
    List<Watermark> all = new ArrayList<>();
    for (Map.Entry<String, String> entry : new TreeMap<>(poll.watermarks()).entrySet()) {
      if (columns.containsKey(entry.getKey())) {
        Watermark known = watermarks.get(entry.getKey());
        if (known == null) {
          known = Watermark.of(c, source, entry.getKey(), entry.getValue());
          // The form of an empty table's watermark is known once it has a row.
          if (!known.isGuess()) {
            watermarks.put(entry.getKey(), known);
          }
        }
        all.add(known);
      }
    }
    return new Look(
        position.number() - TimeUnit.NANOSECONDS.toMicros(poll.overlap().toNanos()),
        new Position(HISTORY, micros(c)),
        new ArrayDeque<>(all));
  }

  /** Reads the next portion of the first remaining table. */
  private void read(Connection c, Look now, int limit, List<Change> changes) throws SQLException {
    Watermark watermark = now.left.getFirst();
    String table = watermark.table();
    List<String> watched = List.copyOf(columns.getOrDefault(table, Set.of()));
    try (PreparedStatement select =
        c.prepareStatement(watermark.select(source.sql(), watched, now.last != null, limit))) {
      List<Object> parameters = new ArrayList<>();
      parameters.add(watermark.parameter(now.from, poll.zone()));
      if (now.last != null) {
        parameters.addAll(Sql.afterParameters(now.last));
      }
      for (int i = 0; i < parameters.size(); i++) {
        select.setObject(i + 1, parameters.get(i));
      }
      int count = 0;
      try (ResultSet rows = select.executeQuery()) {
        int width = 1 + watermark.key().size() + watched.size();
        List<SqlDatabase.ValueReader> readers = new ArrayList<>();
        for (int i = 1; i <= width; i++) {
          readers.add(source.valueReader(rows.getMetaData(), i));
        }
        while (rows.next()) {
          count++;
          List<@Nullable Object> row = new ArrayList<>();
          // In the form that the database compares.
          row.add(watermark.isNumber() ? rows.getObject(1) : rows.getString(1));
          for (int i = 2; i <= width; i++) {
            row.add(readers.get(i - 1).read(rows, i));
          }
          now.last = orderOf(row.subList(0, 1 + watermark.key().size()));
          note(watermark, watched, row, changes);
        }
      }
      if (count < limit) {
        now.left.removeFirst();
        now.last = null;
      }
    }
  }

  private static List<Object> orderOf(List<@Nullable Object> values) {
    return values.stream().map(Objects::requireNonNull).toList();
  }

  private void note(
      Watermark watermark, List<String> watched, List<@Nullable Object> row, List<Change> changes) {
    Map<String, Object> values = new LinkedHashMap<>();
    int at = 1 + watermark.key().size();
    for (String column : watched) {
      Object value = row.get(at++);
      if (value != null) {
        values.put(column, value);
      }
    }
    Instant changed = watermark.instant(String.valueOf(row.getFirst()), poll.zone());
    changes.add(
        new Change(
            watermark.table(),
            values,
            changed,
            new Position(HISTORY, ChronoUnit.MICROS.between(Instant.EPOCH, changed))));
  }

  @Override
  public void done(Position position) {
    // The database retains nothing for us.
  }

  @Override
  public void leave() {
    close();
  }

  @Override
  public void abort() {
    connection.abort();
  }

  @Override
  public void close() {
    connection.close();
  }

  private void forget() {
    next = null;
    look = null;
    watermarks.clear();
  }
}
