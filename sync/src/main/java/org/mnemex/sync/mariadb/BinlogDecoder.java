package org.mnemex.sync.mariadb;

import com.github.shyiko.mysql.binlog.event.DeleteRowsEventData;
import com.github.shyiko.mysql.binlog.event.Event;
import com.github.shyiko.mysql.binlog.event.EventHeaderV4;
import com.github.shyiko.mysql.binlog.event.EventType;
import com.github.shyiko.mysql.binlog.event.MariadbGtidEventData;
import com.github.shyiko.mysql.binlog.event.QueryEventData;
import com.github.shyiko.mysql.binlog.event.RotateEventData;
import com.github.shyiko.mysql.binlog.event.TableMapEventData;
import com.github.shyiko.mysql.binlog.event.TableMapEventMetadata;
import com.github.shyiko.mysql.binlog.event.UpdateRowsEventData;
import com.github.shyiko.mysql.binlog.event.WriteRowsEventData;
import com.github.shyiko.mysql.binlog.event.deserialization.ColumnType;
import java.io.Serializable;
import java.nio.charset.Charset;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;

/**
 * Decodes the events of the binary log into changes.
 *
 * <h2>Distributed transactions</h2>
 *
 * <p>The rows of an XA transaction are logged when it is prepared, but visible only when it is
 * committed, perhaps much later. Its changes are held until then, and the position stays before it,
 * so that a restart reads them again. A commit of an unknown transaction is ignored: it has no
 * watched rows.
 *
 * <h2>Unsupported events</h2>
 *
 * <p>Compressed or partial rows, and statements instead of rows, lose the position. If a server
 * setting produces them, the next edition waits and says what to do.
 */
final class BinlogDecoder {
  private static final String HISTORY = "gtid-";

  /** Flags of a GTID event: the transaction has only one statement, without a commit. */
  private static final int STANDALONE = 1;

  /** The transaction is prepared, as part of a distributed one, and is committed later. */
  private static final int PREPARED = 64;

  private static final String XA_END = "XA END ";
  private static final String XA_COMMIT = "XA COMMIT ";
  private static final String XA_ROLLBACK = "XA ROLLBACK ";

  /** Changes of prepared transactions. */
  private static final int MAX_PREPARED = 200_000;

  private static final Pattern STATEMENT =
      Pattern.compile("(?is)\\s*(/\\*.*?\\*/\\s*)*(INSERT|UPDATE|DELETE|REPLACE|LOAD)\\b.*");

  /** Statements that remove or replace rows without a row event. */
  private static final Pattern ROWS_GONE =
      Pattern.compile(
          "(?is)\\s*(/\\*.*?\\*/\\s*)*(TRUNCATE|RENAME\\s|DROP\\s+TABLE|CREATE\\s+OR\\s+REPLACE\\s+TABLE"
              + "|DROP\\s+(DATABASE|SCHEMA)|ALTER\\s.*(PARTITION|TABLESPACE"
              + "|RENAME\\s+(?!COLUMN|INDEX|KEY))).*");

  private static final Pattern OF_TABLES =
      Pattern.compile("(?is)\\s*(/\\*.*?\\*/\\s*)*(ALTER|CREATE|DROP|RENAME)\\b.*");

  private final String database;
  private final Function<String, Set<String>> watched;
  private final Map<Integer, String> charsets;
  private final Map<Long, Table> tables = new HashMap<>();
  private final List<Change> changes = new ArrayList<>();
  private Position committed;
  private Position inTransaction;
  private boolean open;
  private boolean standalone;
  private boolean tablesChanged;
  private boolean watchedInTransaction;

  /** The changes of the current XA transaction; null in others. */
  private @Nullable List<Change> preparing;

  private String xid = "";
  private final Map<String, List<Change>> prepared = new HashMap<>();
  private Instant at = Instant.EPOCH;
  private final long server;
  private String file = "";

  /** When the file was started, in seconds since 1970. */
  private long begun;

  private long offset;

  /**
   * @param server number of the sending server
   * @param watched columns to decode, by table
   * @param charsets names of character sets by the numbers of their collations
   */
  BinlogDecoder(
      String database,
      Function<String, Set<String>> watched,
      Map<Integer, String> charsets,
      long server,
      Position from) {
    this.server = server;
    this.database = database;
    this.watched = watched;
    this.charsets = charsets;
    this.committed = from;
    this.inTransaction = from;
  }

  /**
   * A table as last described by the log.
   *
   * @param columns null if the table is not watched
   * @param watched the positions of watched columns
   */
  private record Table(String name, MariadbValues.@Nullable LogColumn[] columns, BitSet watched) {}

  /** The position of a transaction. */
  static Position position(long domain, long server, long sequence) {
    return new Position(HISTORY + domain + "-" + server, sequence);
  }

  /** The position of a transaction ID as the server writes it. */
  static Position position(String gtid) {
    int last = gtid.lastIndexOf('-');
    return new Position(
        HISTORY + gtid.substring(0, last), Long.parseLong(gtid.substring(last + 1)));
  }

  /** The transaction ID of a position as the server writes it; empty before the first. */
  static String gtid(Position position) {
    if (!position.history().startsWith(HISTORY)) {
      throw new PositionLostException("the source is a different kind of database than before");
    }
    return position.number() == 0
        ? ""
        : position.history().substring(HISTORY.length()) + "-" + position.number();
  }

  /** Takes the changes decoded since the last call. */
  List<Change> takeChanges() {
    List<Change> taken = List.copyOf(changes);
    changes.clear();
    return taken;
  }

  int size() {
    return changes.size();
  }

  /** The end of the last complete transaction. */
  Position committed() {
    return committed;
  }

  /** The number of the last started transaction. */
  long reached() {
    return open ? inTransaction.number() - 1 : inTransaction.number();
  }

  /** Whether the log has reported a change of a watched table's definition since the last call. */
  boolean takeTablesChanged() {
    boolean taken = tablesChanged;
    tablesChanged = false;
    return taken;
  }

  /** Whether a transaction is open. */
  boolean isOpen() {
    return open;
  }

  /** The log file of the last event. */
  String file() {
    return file;
  }

  /** The offset after the last event, in bytes. */
  long offset() {
    return offset;
  }

  /**
   * Decodes one event.
   *
   * @throws PositionLostException if rows of a watched table have changed and the log does not say
   *     which
   */
  void decode(Event event) {
    EventHeaderV4 header = event.getHeader();
    if (header.getEventType() != EventType.ROTATE && header.getNextPosition() > 0) {
      offset = header.getNextPosition();
    }
    switch (event.getHeader().getEventType()) {
      case ROTATE -> {
        RotateEventData data = event.getData();
        file = data.getBinlogFilename();
        offset = data.getBinlogPosition();
        return;
      }
      case FORMAT_DESCRIPTION -> begun = TimeUnit.MILLISECONDS.toSeconds(header.getTimestamp());
      case MARIADB_GTID -> begin(header, event.getData());
      case TABLE_MAP -> table(event.getData());
      case WRITE_ROWS, EXT_WRITE_ROWS -> {
        WriteRowsEventData data = event.getData();
        data.getRows().forEach(row -> add(data.getTableId(), data.getIncludedColumns(), row));
      }
      case DELETE_ROWS, EXT_DELETE_ROWS -> {
        DeleteRowsEventData data = event.getData();
        data.getRows().forEach(row -> add(data.getTableId(), data.getIncludedColumns(), row));
      }
      case UPDATE_ROWS, EXT_UPDATE_ROWS -> update(event.getData());
      case XID -> commit();
      case XA_PREPARE -> prepared();
      case QUERY -> query(event.getData());
      case UNKNOWN -> unreadable();
      default -> {
        // Heartbeats, checkpoints, notes.
      }
    }
  }

  private void begin(EventHeaderV4 header, MariadbGtidEventData data) {
    preparing = (data.getFlags() & PREPARED) != 0 ? new ArrayList<>() : null;
    watchedInTransaction = false;
    inTransaction = position(data.getDomainId(), header.getServerId(), data.getSequence());
    standalone = (data.getFlags() & STANDALONE) != 0;
    open = true;
    tables.clear();
    // The log has seconds only: a recent change counts from its receipt.
    Instant second = Instant.ofEpochMilli(header.getTimestamp());
    Instant now = Instant.now();
    Duration age = Duration.between(second, now);
    at = age.isNegative() || age.toSeconds() >= 1 ? second : now;
  }

  private void commit() {
    if (prepared.isEmpty()) {
      committed =
          new Position(
              inTransaction.history(),
              inTransaction.number(),
              new FileMark(server, begun, offset, file).toString());
    }
    open = false;
  }

  private void prepared() {
    List<Change> rows = preparing;
    preparing = null;
    if (rows != null && !rows.isEmpty()) {
      prepared.put(xid, rows);
      if (prepared.values().stream().mapToInt(List::size).sum() > MAX_PREPARED) {
        throw new PositionLostException(
            "distributed transactions (XA) with more than %,d rows are prepared but not committed"
                .formatted(MAX_PREPARED));
      }
    }
    commit();
  }

  /** An unknown kind of event, which may contain rows. */
  private void unreadable() {
    if (watchedInTransaction || standalone && open) {
      throw new PositionLostException(
          "the log has an unreadable event; perhaps it is compressed (log_bin_compress)");
    }
  }

  private void query(QueryEventData data) {
    String sql = data.getSql();
    if (sql.equals("BEGIN")) {
      return;
    }
    if (sql.startsWith(XA_END)) {
      xid = sql.substring(XA_END.length());
      return;
    }
    if (sql.startsWith(XA_COMMIT)) {
      List<Change> rows = prepared.remove(sql.substring(XA_COMMIT.length()));
      changes.addAll(rows == null ? List.of() : rows);
    } else if (sql.startsWith(XA_ROLLBACK)) {
      prepared.remove(sql.substring(XA_ROLLBACK.length()));
    }
    if (data.getDatabase().equals(database) || sql.contains(database)) {
      String why =
          STATEMENT.matcher(sql).matches()
              ? "the log has a statement instead of the changed rows"
              : ROWS_GONE.matcher(sql).matches() ? "rows were removed without a log entry" : null;
      if (why != null && namesWatched(sql)) {
        throw new PositionLostException(
            why + ": " + (sql.length() > 80 ? sql.substring(0, 80) + "…" : sql));
      }
      tablesChanged |= OF_TABLES.matcher(sql).matches() && namesWatched(sql);
    }
    if (standalone
        || sql.equals("COMMIT")
        || sql.equals("ROLLBACK")
        || sql.startsWith(XA_COMMIT)
        || sql.startsWith(XA_ROLLBACK)) {
      commit();
    }
  }

  private boolean namesWatched(String sql) {
    return Pattern.compile("[`\"]((?:[^`\"])+)[`\"]|[\\w$]+", Pattern.UNICODE_CHARACTER_CLASS)
        .matcher(sql)
        .results()
        .map(found -> found.group(1) == null ? found.group() : found.group(1))
        .anyMatch(name -> !watched.apply(name).isEmpty());
  }

  private void table(TableMapEventData data) {
    Set<String> wanted =
        data.getDatabase().equals(database) ? watched.apply(data.getTable()) : Set.of();
    if (wanted.isEmpty()) {
      tables.remove(data.getTableId());
      return;
    }
    watchedInTransaction = true;
    TableMapEventMetadata metadata = data.getEventMetadata();
    List<String> names = metadata == null ? null : metadata.getColumnNames();
    if (metadata == null || names == null) {
      throw new PositionLostException(
          "the log lacks the column names of table '%s' (binlog_row_metadata)"
              .formatted(data.getTable()));
    }
    Types types = new Types(data, metadata);
    MariadbValues.@Nullable LogColumn[] columns =
        new MariadbValues.@Nullable LogColumn[names.size()];
    BitSet places = new BitSet(columns.length);
    for (int i = 0; i < columns.length; i++) {
      MariadbValues.LogColumn column = types.next(names.get(i));
      columns[i] = wanted.contains(names.get(i)) ? column : null;
      places.set(i, columns[i] != null);
    }
    tables.put(data.getTableId(), new Table(data.getTable(), columns, places));
  }

  /**
   * Iterates over the columns of a table map, whose metadata numbers each kind of column
   * separately.
   */
  private final class Types {
    private final TableMapEventData data;
    private final TableMapEventMetadata metadata;
    private int column;
    private int text;
    private int enumeration;

    Types(TableMapEventData data, TableMapEventMetadata metadata) {
      this.data = data;
      this.metadata = metadata;
    }

    MariadbValues.LogColumn next(String name) {
      int at = column++;
      int meta = data.getColumnMetadata()[at];
      ColumnType type = ColumnType.byCode(data.getColumnTypes()[at] & 0xFF);
      if (type == ColumnType.STRING && meta >> 8 == ColumnType.ENUM.getCode()) {
        type = ColumnType.ENUM;
      } else if (type == ColumnType.STRING && meta >> 8 == ColumnType.SET.getCode()) {
        type = ColumnType.SET;
      }
      String @Nullable [] words = null;
      Charset charset = null;
      switch (type) {
        case STRING, VARCHAR, VAR_STRING, BLOB, TINY_BLOB, MEDIUM_BLOB, LONG_BLOB ->
            charset = charset(text++);
        case ENUM -> {
          List<String[]> all = metadata.getEnumStrValues();
          words = all == null ? null : all.get(enumeration);
          enumeration++;
        }
        default -> {
          // Determined by its type alone.
        }
      }
      BitSet unsigned = metadata.getSignedness();
      return new MariadbValues.LogColumn(
          name, type, unsigned != null && unsigned.get(at), charset, words);
    }

    private @Nullable Charset charset(int textColumn) {
      Integer collation = null;
      if (metadata.getColumnCharsets() != null) {
        collation = metadata.getColumnCharsets().get(textColumn);
      } else if (metadata.getDefaultCharset() != null) {
        Map<Integer, Integer> others = metadata.getDefaultCharset().getCharsetCollations();
        collation =
            others != null && others.containsKey(textColumn)
                ? others.get(textColumn)
                : Integer.valueOf(metadata.getDefaultCharset().getDefaultCharsetCollation());
      }
      String name = collation == null ? null : charsets.get(collation);
      return name == null ? null : MariadbValues.charset(name.toLowerCase(Locale.ROOT));
    }
  }

  private void update(UpdateRowsEventData data) {
    Table table = tables.get(data.getTableId());
    if (table == null) {
      return;
    }
    for (Map.Entry<Serializable[], Serializable[]> row : data.getRows()) {
      Map<String, Object> before =
          columns(table, data.getIncludedColumnsBeforeUpdate(), row.getKey());
      Map<String, Object> after = columns(table, data.getIncludedColumns(), row.getValue());
      if (!before.equals(after)) {
        add(new Change(table.name, before, at, inTransaction));
      }
      add(new Change(table.name, after, at, inTransaction));
    }
  }

  private void add(long tableId, BitSet included, Serializable[] row) {
    Table table = tables.get(tableId);
    if (table != null) {
      add(new Change(table.name, columns(table, included, row), at, inTransaction));
    }
  }

  private void add(Change change) {
    List<Change> kept = preparing;
    (kept == null ? changes : kept).add(change);
  }

  private static Map<String, Object> columns(
      Table table, BitSet included, @Nullable Serializable[] row) {
    BitSet missing = (BitSet) table.watched.clone();
    missing.andNot(included);
    if (!missing.isEmpty()) {
      throw new PositionLostException(
          "the log has only partial rows of table '%s' (binlog_row_image)".formatted(table.name));
    }
    Map<String, Object> columns = new HashMap<>();
    int at = 0;
    for (int i = included.nextSetBit(0); i >= 0; i = included.nextSetBit(i + 1)) {
      Serializable logged = row[at++];
      MariadbValues.LogColumn column = table.columns[i];
      if (column != null && logged != null) {
        Object value = column.value(logged);
        if (value != null) {
          columns.put(column.name(), value);
        }
      }
    }
    return columns;
  }
}
