package org.mnemex.sync.postgres;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.shared.Piece;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.postgresql.replication.LogSequenceNumber;

/**
 * Reads the messages of PostgreSQL's output plugin {@code pgoutput}, version 1, as the chapter
 * "Logical Replication Message Formats" of its documentation describes them. Only watched columns
 * of rows are decoded; all others stay unread bytes.
 */
final class LogDecoder {
  /** 2000-01-01, PostgreSQL's epoch. */
  private static final Instant EPOCH = Instant.parse("2000-01-01T00:00:00Z");

  private final String history;
  private final String schema;
  private Function<String, Set<String>> watched;
  private final Map<Integer, Table> tables = new HashMap<>();
  private final List<Piece> pieces = new ArrayList<>();
  private final Set<Integer> transactions = new HashSet<>();
  private PieceDraft draft = new PieceDraft();
  private int size;
  private Instant at = Instant.EPOCH;
  private Position inTransaction;
  private Position committed;
  private final Position from;

  /** Transactions from here up to {@link #from} were read before. */
  private final long start;

  /** Whether the current transaction was handed out before. */
  private boolean again;

  /** Whether the transaction of the mark was found, or is not required. */
  private boolean marked;

  private boolean open;

  /**
   * @param watched columns to decode, by table
   * @param from everything up to this position was handed out before
   * @param start where the server starts sending, not after {@code from}
   */
  LogDecoder(
      String history,
      String schema,
      Function<String, Set<String>> watched,
      Position from,
      long start) {
    this.from = from;
    this.start = start;
    this.marked =
        from.mark().isEmpty() || Long.compareUnsigned(CommitMark.of(from).end(), start) <= 0;
    this.history = history;
    this.schema = schema;
    this.watched = watched;
    this.committed = from;
    this.inTransaction = from;
  }

  /**
   * A table as last described by the log.
   *
   * @param wanted for each column in order, whether it is watched
   */
  private record Table(
      String namespace, String name, String[] columns, int[] types, boolean[] wanted) {
    Table watching(Set<String> watched) {
      boolean[] wanted = new boolean[columns.length];
      for (int i = 0; i < columns.length; i++) {
        wanted[i] = watched.contains(columns[i]);
      }
      return new Table(namespace, name, columns, types, wanted);
    }
  }

  private Set<String> wanted(Table table) {
    return table.namespace.equals(schema) ? watched.apply(table.name) : Set.of();
  }

  /** Takes what was decoded since the last call. An open transaction ends in an open piece. */
  List<Piece> takePieces() {
    if (open && draft.hasContent()) {
      pieces.add(draft.piece(inTransaction.number(), null));
      draft = new PieceDraft();
    }
    List<Piece> taken = List.copyOf(pieces);
    pieces.clear();
    size = 0;
    return taken;
  }

  /** Watches other columns from now on. Between transactions only. */
  void watch(Function<String, Set<String>> columns) {
    watched = columns;
    tables.replaceAll((id, table) -> table.watching(wanted(table)));
  }

  /** The transactions decoded since the last call, by their 32-bit numbers. */
  Set<Integer> takeTransactions() {
    Set<Integer> taken = Set.copyOf(transactions);
    transactions.clear();
    return taken;
  }

  /** The number of changes decoded since the last {@link #takePieces}. */
  int size() {
    return size;
  }

  /** Up to where all transactions have come: after the last one, or before the one that is open. */
  Position committed() {
    return committed;
  }

  /** Whether the log was verified to be the one read before. */
  boolean isKnown() {
    return marked;
  }

  /** Whether a transaction is open. */
  boolean isOpen() {
    return open;
  }

  /**
   * Notes that no transaction is open and everything up to a position was seen.
   *
   * @throws PositionLostException if the log is not the one read before
   */
  void seen(long number) {
    if (!open && number > committed.number()) {
      if (!marked) {
        throw anotherLog();
      }
      committed = new Position(history, number, committed.mark());
    }
  }

  /** Decodes one message. */
  void decode(ByteBuffer in) {
    char kind = (char) in.get();
    switch (kind) {
      case 'B' -> begin(in);
      case 'C' -> commit(in);
      case 'R' -> relation(in);
      case 'I' -> insert(in);
      case 'U' -> update(in);
      case 'D' -> delete(in);
      case 'T' -> truncate(in);
      default -> {
        // Types, origins and messages of others say nothing about rows.
      }
    }
  }

  private void begin(ByteBuffer in) {
    long end = in.getLong();
    long micros = in.getLong();
    int xid = in.getInt();
    at = EPOCH.plusSeconds(micros / 1_000_000).plusNanos(micros % 1_000_000 * 1000);
    inTransaction = new Position(history, end);
    again = Long.compareUnsigned(end, from.number()) < 0;
    if (!again) {
      transactions.add(xid);
      if (!marked) {
        throw anotherLog();
      }
      // Transactions come in the order of their commits, so all before this one have come.
      seen(end);
    }
    open = true;
  }

  private void commit(ByteBuffer in) {
    in.get();
    in.getLong();
    CommitMark mark = new CommitMark(in.getLong(), in.getLong());
    open = false;
    if (again) {
      verify(mark);
      again = false;
    } else {
      committed = new Position(history, mark.end(), mark.toString());
      pieces.add(draft.piece(inTransaction.number(), committed));
      draft = new PieceDraft();
    }
  }

  /** Skips a transaction that was read before, and checks that it could have been. */
  private void verify(CommitMark mark) {
    if (from.mark().isEmpty()) {
      return;
    }
    CommitMark last = CommitMark.of(from);
    int order = Long.compareUnsigned(mark.end(), last.end());
    if (order > 0 || order == 0 && !mark.equals(last)) {
      throw anotherLog();
    }
    marked |= order == 0;
  }

  private PositionLostException anotherLog() {
    return anotherLog(start, from);
  }

  /** Says that a log is not the one that was read before. */
  static PositionLostException anotherLog(long start, Position from) {
    return new PositionLostException(
        "the log from %s on is not the one read up to %s: an older copy was restored"
            .formatted(
                LogSequenceNumber.valueOf(start).asString(),
                LogSequenceNumber.valueOf(from.number()).asString()));
  }

  private void relation(ByteBuffer in) {
    int id = in.getInt();
    String namespace = string(in);
    String name = string(in);
    in.get();
    int count = in.getShort();
    Table table = new Table(namespace, name, new String[count], new int[count], new boolean[count]);
    for (int i = 0; i < count; i++) {
      in.get();
      table.columns[i] = string(in);
      table.types[i] = in.getInt();
      in.getInt();
    }
    Set<String> wanted = wanted(table);
    Table before = tables.put(id, table.watching(wanted));
    if (before != null && !wanted.isEmpty()) {
      draft.redefined(name);
    }
  }

  private void insert(ByteBuffer in) {
    Table table = table(in);
    in.get();
    add(table, tuple(table, in));
  }

  private void update(ByteBuffer in) {
    Table table = table(in);
    char part = (char) in.get();
    Map<String, Object> before = null;
    if (part == 'K' || part == 'O') {
      before = tuple(table, in);
      in.get();
    }
    Map<String, Object> after = tuple(table, in);
    if (before != null) {
      // An unchanged large value is not in the log.
      before.forEach(after::putIfAbsent);
      if (!before.equals(after)) {
        add(table, before);
      }
    }
    add(table, after);
  }

  private void delete(ByteBuffer in) {
    Table table = table(in);
    in.get();
    add(table, tuple(table, in));
  }

  private void truncate(ByteBuffer in) {
    int count = in.getInt();
    in.get();
    for (int i = 0; i < count; i++) {
      Table table = tables.get(in.getInt());
      if (!again && table != null && !wanted(table).isEmpty()) {
        draft.emptied(table.name);
      }
    }
  }

  private void add(Table table, Map<String, Object> columns) {
    if (!again && !columns.isEmpty()) {
      draft.add(new Change(table.name, columns, at, inTransaction));
      size++;
    }
  }

  private Table table(ByteBuffer in) {
    int id = in.getInt();
    Table table = tables.get(id);
    if (table == null) {
      throw new IllegalStateException("the log names table " + id + " without having told of it");
    }
    return table;
  }

  private static Map<String, Object> tuple(Table table, ByteBuffer in) {
    Map<String, Object> columns = new HashMap<>();
    int count = in.getShort();
    for (int i = 0; i < count; i++) {
      char kind = (char) in.get();
      if (kind != 't' && kind != 'b') {
        continue;
      }
      int length = in.getInt();
      if (table.wanted[i]) {
        @Nullable String text =
            new String(
                in.array(), in.arrayOffset() + in.position(), length, StandardCharsets.UTF_8);
        columns.put(table.columns[i], PostgresValues.ofText(table.types[i], text));
      }
      in.position(in.position() + length);
    }
    return columns;
  }

  private static String string(ByteBuffer in) {
    int start = in.position();
    while (in.get() != 0) {
      // To its end.
    }
    return new String(
        in.array(), in.arrayOffset() + start, in.position() - 1 - start, StandardCharsets.UTF_8);
  }
}
