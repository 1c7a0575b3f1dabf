package org.mnemex.sync.journal;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.record.KeptConnection;
import org.mnemex.sync.record.SqlSource;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * Follows a journal on a server.
 *
 * <h2>Numbers come before commits</h2>
 *
 * <p>A journal line gets its number when the trigger runs and becomes visible when its transaction
 * commits, so a lower number may appear after a higher one. The reader hands out what it sees and
 * remembers skipped numbers as gaps. A gap is filled when its lines appear, and dropped when all
 * transactions that were open when it was noticed have ended without them.
 *
 * <h2>Positions</h2>
 *
 * <p>A position is the number below the first gap, or the last number handed out. So after a crash
 * some changes are handed out again, which is harmless, and none is skipped. Its mark is the last
 * line below it that this reader saw when there were no gaps; that line is not trimmed.
 */
public final class JournalCapture implements Source.Capture {
  private static final ObjectMapper JSON =
      JsonMapper.builder().enable(DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS).build();
  private static final TypeReference<Map<String, Object>> COLUMNS = new TypeReference<>() {};

  /** Gaps per statement. */
  private static final int GAPS_PER_STATEMENT = 100;

  /** With open gaps, another commit may come at any moment. */
  private static final Duration GAP_WAIT = Duration.ofMillis(20);

  private static final String LINES =
      "SELECT seq, table_name, columns, at FROM mnemex_journal WHERE ";

  private final SqlSource source;
  private final ServerJournal kind;
  private final String reader;
  private final KeptConnection connection;
  private @Nullable Position next;
  private long seen;

  /** The mark of the last line seen; null before the first. */
  private @Nullable LineMark seenMark;

  /** Open gaps by their first number. */
  private final TreeMap<Long, Gap> gaps = new TreeMap<>();

  /**
   * All gaps above the position with the time they were first noticed. Reading again from the
   * position meets them again, but does not make them younger.
   */
  private final TreeMap<Long, Gap> noticed = new TreeMap<>();

  /**
   * Skipped numbers.
   *
   * @param moment when, as {@link ServerJournal#moment} tells it
   */
  private record Gap(long from, long to, long moment) {}

  /**
   * @param reader name of the reader
   */
  public JournalCapture(SqlSource source, ServerJournal kind, String reader) {
    this.source = source;
    this.kind = kind;
    this.reader = reader;
    this.connection = new KeptConnection(source, JournalCapture::seeCommitted, this::forget);
  }

  @Override
  public Position now() throws SourceUnavailableException {
    return connection.use(
        c -> {
          JournalTables.State state = state(c);
          JournalTables.join(c, reader, state.trimmed());
          return new Position(state.journal(), state.trimmed());
        });
  }

  @Override
  public Position last() throws SourceUnavailableException {
    return connection.use(
        c -> {
          JournalTables.State state = state(c);
          return new Position(state.journal(), Math.max(state.trimmed(), JournalTables.last(c)));
        });
  }

  private JournalTables.State state(Connection connection) throws SQLException {
    JournalTables.State state = null;
    try {
      state = JournalTables.state(connection, reader);
    } catch (SQLException e) {
      if (kind.exists(connection)) {
        throw e;
      }
    }
    if (state == null) {
      throw new PositionLostException("source '" + source.name() + "' has no journal");
    }
    return state;
  }

  @Override
  public Changes after(Position position, int limit, Duration wait)
      throws SourceUnavailableException, InterruptedException {
    long deadline = System.nanoTime() + wait.toNanos();
    if (!position.equals(next)) {
      gaps.clear();
      seen = position.number();
      seenMark = null;
    }
    noticed.headMap(position.number()).values().removeIf(gap -> gap.to <= position.number());
    while (true) {
      Changes changes = connection.use(c -> read(c, position, limit));
      long left = deadline - System.nanoTime();
      if (!changes.list().isEmpty() || left <= 0) {
        next = changes.upTo();
        return changes;
      }
      Duration most = Duration.ofNanos(left);
      Duration pause = !gaps.isEmpty() && most.compareTo(GAP_WAIT) > 0 ? GAP_WAIT : most;
      connection.use(
          c -> {
            kind.await(c, pause);
            return true;
          });
    }
  }

  private Changes read(Connection c, Position position, int limit) throws SQLException {
    JournalTables.State state = state(c);
    if (!state.journal().equals(position.history())) {
      throw new PositionLostException(
          "source '%s' is a different database than before, or its journal was recreated"
              .formatted(source.name()));
    }
    if (state.trimmed() > position.number()) {
      throw new PositionLostException(
          "the journal of source '%s' was trimmed to %d, beyond position %d"
              .formatted(source.name(), state.trimmed(), position.number()));
    }
    LineMark.verify(c, position, Math.max(state.trimmed(), JournalTables.last(c)), source.name());
    // Asked before reading lines: transactions that have ended by now cannot add lines later.
    List<Gap> over = new ArrayList<>();
    for (Gap gap : gaps.values()) {
      if (kind.isOver(c, gap.moment, gap.from, gap.to)) {
        over.add(gap);
      }
    }
    List<Change> changes = new ArrayList<>();
    int lines = fillGaps(c, state, limit, changes);
    if (lines < limit) {
      for (Gap gap : over) {
        // Lines that arrived have split it.
        gaps.subMap(gap.from, true, gap.to, true)
            .values()
            .removeIf(piece -> piece.moment == gap.moment);
      }
    }
    lines += readNew(c, state, limit - lines, changes);
    long upTo = gaps.isEmpty() ? seen : gaps.firstKey() - 1;
    LineMark last = seenMark;
    String mark = gaps.isEmpty() && last != null ? last.toString() : position.mark();
    return new Changes(changes, new Position(position.history(), upTo, mark), lines < limit);
  }

  /** Reads lines that have appeared in gaps; returns how many. */
  private int fillGaps(Connection c, JournalTables.State state, int limit, List<Change> changes)
      throws SQLException {
    int lines = 0;
    List<Gap> all = List.copyOf(gaps.values());
    for (int at = 0; at < all.size() && lines < limit; at += GAPS_PER_STATEMENT) {
      List<Gap> some = all.subList(at, Math.min(all.size(), at + GAPS_PER_STATEMENT));
      String where = "seq BETWEEN ? AND ? OR ".repeat(some.size() - 1) + "seq BETWEEN ? AND ?";
      try (PreparedStatement select =
          c.prepareStatement(LINES + "(" + where + ") ORDER BY seq LIMIT " + (limit - lines))) {
        int parameter = 1;
        for (Gap gap : some) {
          select.setLong(parameter++, gap.from);
          select.setLong(parameter++, gap.to);
        }
        try (ResultSet rows = select.executeQuery()) {
          while (rows.next()) {
            lines++;
            cut(rows.getLong(1));
            add(change(c, state, rows), changes);
          }
        }
      }
    }
    return lines;
  }

  /** Takes a number out of the gap that it is in. */
  private void cut(long number) {
    Gap gap = gaps.floorEntry(number).getValue();
    gaps.remove(gap.from);
    if (gap.from < number) {
      gaps.put(gap.from, new Gap(gap.from, number - 1, gap.moment));
    }
    if (number < gap.to) {
      gaps.put(number + 1, new Gap(number + 1, gap.to, gap.moment));
    }
  }

  /** Reads lines after all that were seen; how many there were. */
  private int readNew(Connection c, JournalTables.State state, int limit, List<Change> changes)
      throws SQLException {
    if (limit == 0) {
      return 0;
    }
    int lines = 0;
    List<long[]> passed = new ArrayList<>();
    try (PreparedStatement select =
        c.prepareStatement(LINES + "seq > ? ORDER BY seq LIMIT " + limit)) {
      select.setLong(1, seen);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          lines++;
          long number = rows.getLong(1);
          if (number > seen + 1) {
            passed.add(new long[] {seen + 1, number - 1});
          }
          seen = number;
          seenMark = LineMark.of(number, rows.getString(2), rows.getString(3), rows.getLong(4));
          add(change(c, state, rows), changes);
        }
      }
    }
    if (!passed.isEmpty()) {
      // After the lines were read: whoever has a number among these was open by then.
      long moment = kind.moment(c);
      passed.forEach(range -> notice(range[0], range[1], moment));
    }
    return lines;
  }

  /** Notes a gap; the parts of it that were noticed before keep their moment. */
  private void notice(long from, long to, long moment) {
    long next = from;
    Map.Entry<Long, Gap> first = noticed.floorEntry(from);
    List<Gap> known =
        List.copyOf(noticed.subMap(first == null ? from : first.getKey(), true, to, true).values());
    for (Gap gap : known) {
      if (gap.to < next) {
        continue;
      }
      if (gap.from > next) {
        add(new Gap(next, gap.from - 1, moment), true);
      }
      long start = Math.max(next, gap.from);
      long end = Math.min(to, gap.to);
      add(new Gap(start, end, gap.moment), false);
      next = end + 1;
    }
    if (next <= to) {
      add(new Gap(next, to, moment), true);
    }
  }

  private void add(Gap gap, boolean isNew) {
    gaps.put(gap.from, gap);
    if (isNew) {
      noticed.put(gap.from, gap);
    }
  }

  private static void add(@Nullable Change change, List<Change> changes) {
    if (change != null) {
      changes.add(change);
    }
  }

  /** The change of a line; null if it was made before this reader began and is no row's. */
  private @Nullable Change change(Connection c, JournalTables.State state, ResultSet row)
      throws SQLException {
    long number = row.getLong(1);
    String table = row.getString(2);
    String truncated = kind.truncated(table);
    if (truncated != null && number <= state.joined()) {
      return null;
    }
    if (truncated != null) {
      throw new PositionLostException("table '" + truncated + "' was truncated");
    }
    return new Change(
        table,
        kind.values(c, table, JSON.readValue(row.getString(3), COLUMNS)),
        Instant.ofEpochMilli(row.getLong(4)),
        new Position(state.journal(), number));
  }

  @Override
  public void done(Position position) throws SourceUnavailableException {
    connection.use(
        c -> {
          JournalTables.done(c, reader, LineMark.unneeded(position));
          return true;
        });
  }

  @Override
  public void leave() throws SourceUnavailableException {
    connection.use(
        c -> {
          if (kind.exists(c)) {
            JournalTables.leave(c, reader);
          }
          return true;
        });
  }

  @Override
  public void abort() {
    connection.abort();
  }

  @Override
  public void close() {
    connection.close();
  }

  /** Every statement sees what is committed by then. */
  private static Connection seeCommitted(Connection open) throws SQLException {
    open.setTransactionIsolation(Connection.TRANSACTION_READ_COMMITTED);
    return open;
  }

  private void forget() {
    next = null;
    gaps.clear();
  }
}
