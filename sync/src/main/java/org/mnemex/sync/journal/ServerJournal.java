package org.mnemex.sync.journal;

import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.record.SqlSource;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;

/**
 * Changes by a journal on a server that triggers write to. What all servers have in common is here;
 * a kind of server says how it makes tables and triggers, waits, and tells open transactions from
 * ended ones.
 */
public abstract class ServerJournal implements CaptureMethod {
  /** Between the names of columns that triggers write. */
  private static final String SEPARATOR = "\n";

  private static final List<String> TABLES =
      List.of(
          "mnemex_journal",
          "mnemex_journal_state",
          "mnemex_journal_table",
          "mnemex_journal_reader");

  private final SqlSource source;
  private final Map<String, Map<String, String>> types = new HashMap<>();

  protected ServerJournal(SqlSource source) {
    this.source = source;
  }

  /** The triggers of watched tables, as they are in the database now. */
  protected interface Triggers {
    /** Whether a table has all its triggers, and they are switched on. */
    boolean areOn(String table);

    /**
     * The statements that make the triggers of a table, in place of former ones.
     *
     * @param columns what they write
     */
    List<String> statements(String table, Set<String> columns);
  }

  /** Where the journal is, for messages: {@code schema 'public'}. */
  protected abstract String place();

  /** The name of a table of ours in statements. */
  protected abstract String own(String table);

  /** The statements that make the journal's tables. */
  protected abstract List<String> tables();

  /** The triggers that there are. */
  protected abstract Triggers triggers(Connection connection) throws SQLException;

  /** The statements that remove our triggers. */
  protected abstract List<String> withoutTriggers(Connection connection) throws SQLException;

  /** The privileges that making the journal takes. */
  protected abstract List<Requirement> privileges(Connection connection, Set<String> tables)
      throws SQLException;

  /** What the server itself must be, whether the journal is there or not. */
  protected List<Requirement> server(Connection connection) throws SQLException {
    return List.of();
  }

  /** What speaks against relating rows of a table by some columns. */
  protected List<Requirement> unfit(String table, Set<String> columns, Map<String, String> types) {
    return List.of();
  }

  /** A value of a column in the form that queries give. */
  protected abstract Object value(String type, String text);

  /** Whether the journal's tables are there. */
  protected abstract boolean exists(Connection connection) throws SQLException;

  /**
   * Waits until something may have been committed.
   *
   * @param most how long at most
   */
  protected abstract void await(Connection connection, Duration most)
      throws SQLException, InterruptedException;

  /**
   * What tells later whether the transactions that are open now have ended.
   *
   * @see #isOver
   */
  protected abstract long moment(Connection connection) throws SQLException;

  /**
   * Whether numbers that were missing at a moment will never come: their transactions were rolled
   * back.
   *
   * @param from the first number
   * @param to the last number
   */
  protected abstract boolean isOver(Connection connection, long moment, long from, long to)
      throws SQLException;

  /** The table whose truncation a change of this name tells, or null if it is a row's change. */
  protected @Nullable String truncated(String tableName) {
    return null;
  }

  @Override
  public final List<Requirement> requirements(
      Connection connection, Map<String, Set<String>> columnsByTable) throws SQLException {
    List<Requirement> all = new ArrayList<>(server(connection));
    boolean exists = exists(connection);
    if (!columnsByTable.isEmpty()) {
      all.add(
          new Requirement(
              place() + " has the journal", exists, tables(), Requirement.Kind.PREPARABLE));
    }
    Map<String, Set<String>> watched = exists ? watched(connection) : Map.of();
    Triggers triggers = triggers(connection);
    Catalogue catalogue = source.catalogue(connection);
    for (Map.Entry<String, Set<String>> entry : columnsByTable.entrySet()) {
      String table = entry.getKey();
      Set<String> columns = new TreeSet<>(entry.getValue());
      Set<String> present = watched.getOrDefault(table, Set.of());
      boolean met = triggers.areOn(table) && present.containsAll(columns);
      columns.addAll(present);
      all.add(
          new Requirement(
              "triggers on table '%s' write its changes to the journal".formatted(table),
              met,
              triggers.statements(table, columns),
              Requirement.Kind.PREPARABLE));
      all.addAll(unfit(table, entry.getValue(), types(catalogue, table)));
    }
    if (all.stream().anyMatch(Requirement::isMissing)) {
      all.addAll(0, privileges(connection, columnsByTable.keySet()));
    }
    return all;
  }

  /** A name for the journal, which tells it from one that is made later. */
  protected static String newIdentity() {
    return "journal-" + UUID.randomUUID().toString().substring(0, 8);
  }

  /**
   * A name for something of ours that belongs to a table.
   *
   * @param most bytes that the server allows; it would cut a longer name, and two tables might get
   *     the same
   */
  protected static String nameFor(String table, String suffix, int most) {
    String name = "mnemex_" + table + suffix;
    byte[] utf8 = table.getBytes(StandardCharsets.UTF_8);
    return name.getBytes(StandardCharsets.UTF_8).length <= most
        ? name
        : "mnemex_" + UUID.nameUUIDFromBytes(utf8) + suffix;
  }

  /** Columns as they are noted for a table. */
  protected static String noted(Set<String> columns) {
    return String.join(SEPARATOR, columns);
  }

  private Map<String, Set<String>> watched(Connection connection) throws SQLException {
    Map<String, Set<String>> watched = new TreeMap<>();
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery(
                "SELECT table_name, columns FROM " + own("mnemex_journal_table"))) {
      while (rows.next()) {
        watched.put(rows.getString(1), Set.of(rows.getString(2).split(SEPARATOR)));
      }
    }
    return watched;
  }

  @Override
  public final Source.Capture open(String reader, Map<String, Set<String>> columnsByTable) {
    return new JournalCapture(source, this, reader);
  }

  @Override
  public final boolean canReadForAll() {
    return true;
  }

  @Override
  public final List<SourceReader> readers(Connection connection) throws SQLException {
    return exists(connection) ? JournalReaders.of(connection) : List.of();
  }

  @Override
  public final void dropReader(Connection connection, String name) throws SQLException {
    JournalReaders.drop(connection, name);
  }

  @Override
  public final List<String> removal(Connection connection, OwnReaders own) throws SQLException {
    Sql sql = source.sql();
    boolean exists = exists(connection);
    if (exists && JournalReaders.isNeededByOthers(connection, own)) {
      return JournalReaders.removal(connection, own, sql);
    }
    List<String> all = new ArrayList<>(withoutTriggers(connection));
    // Where making tables cannot be undone, some of them may be there without the others.
    if (exists || !sql.hasTransactionalTables()) {
      TABLES.forEach(table -> all.add("DROP TABLE IF EXISTS " + own(table)));
    }
    return all;
  }

  /**
   * The values of a change in the form that queries give.
   *
   * @param columns as the trigger wrote them
   */
  final Map<String, Object> values(Connection connection, String table, Map<String, Object> columns)
      throws SQLException {
    Map<String, String> known = types.get(table);
    if (known == null || !known.keySet().containsAll(columns.keySet())) {
      known = types(source.catalogue(connection), table);
      types.put(table, known);
    }
    Map<String, Object> values = new LinkedHashMap<>();
    for (Map.Entry<String, Object> entry : columns.entrySet()) {
      if (entry.getValue() != null) {
        String type = known.getOrDefault(entry.getKey(), "");
        values.put(entry.getKey(), value(type, entry.getValue().toString()));
      }
    }
    return values;
  }

  /** The types of a table's columns as the catalogue names them. */
  protected static Map<String, String> types(Catalogue catalogue, String table) {
    Map<String, String> types = new HashMap<>();
    Catalogue.Table found = catalogue.table(table);
    if (found != null) {
      found.columns().forEach(column -> types.put(column.name(), column.type()));
    }
    return types;
  }
}
