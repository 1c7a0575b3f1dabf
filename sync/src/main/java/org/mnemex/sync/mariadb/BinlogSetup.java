package org.mnemex.sync.mariadb;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.Requirement;

/**
 * What a MariaDB server needs so that its binary log can be followed: whole rows with column names,
 * of all databases, in one GTID domain; and the privileges to read them. All of it is an
 * administrator's work; Mnemex creates nothing.
 */
final class BinlogSetup {
  private final Connection connection;
  private final SourceDefinition.Server definition;

  BinlogSetup(Connection connection, SourceDefinition.Server definition) {
    this.connection = connection;
    this.definition = definition;
  }

  List<Requirement> requirements(Map<String, Set<String>> columnsByTable) throws SQLException {
    List<Requirement> all = new ArrayList<>();
    all.add(
        new Requirement(
            "the server writes a binary log",
            variable("log_bin").equals("ON") || variable("log_bin").equals("1"),
            List.of("-- in the server's configuration: log_bin=binlog; then restart the server"),
            Requirement.Kind.ADMINISTRATIVE));
    all.add(setting("binlog_format", Set.of("ROW"), "the log has rows instead of statements"));
    all.add(setting("binlog_row_image", Set.of("FULL", "FULL_NODUP"), "the log has whole rows"));
    all.add(setting("binlog_row_metadata", Set.of("FULL"), "the log has the names of columns"));
    all.add(setting("log_bin_compress", Set.of("OFF", "0"), "the log is not compressed"));
    all.add(oneDomain());
    all.addAll(rights());
    for (Map.Entry<String, Set<String>> entry : columnsByTable.entrySet()) {
      all.addAll(table(entry.getKey(), entry.getValue()));
    }
    return all;
  }

  private Requirement setting(String name, Set<String> wanted, String what) throws SQLException {
    String value = variable(name).toUpperCase(Locale.ROOT);
    String first = wanted.contains("OFF") ? "OFF" : wanted.contains("FULL") ? "FULL" : "ROW";
    return new Requirement(
        "%s (%s is '%s')".formatted(what, name, value),
        wanted.contains(value),
        List.of(
            "SET GLOBAL %s = '%s'; -- also in the server's configuration; open sessions keep the old"
                    .formatted(name, first)
                + " setting until they connect again"),
        Requirement.Kind.ADMINISTRATIVE);
  }

  private Requirement oneDomain() throws SQLException {
    String position = single("SELECT @@GLOBAL.gtid_binlog_pos");
    long domains =
        Arrays.stream(position.split(",", -1))
            .map(gtid -> gtid.split("-", 2)[0])
            .distinct()
            .count();
    return new Requirement(
        "all changes are counted in one GTID domain (the log is at '%s')".formatted(position),
        domains <= 1,
        List.of(
            "FLUSH BINARY LOGS DELETE_DOMAIN_ID=(…); -- with the domains that are no longer used"),
        Requirement.Kind.ADMINISTRATIVE);
  }

  private List<Requirement> rights() throws SQLException {
    StringBuilder granted = new StringBuilder();
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SHOW GRANTS")) {
      while (rows.next()) {
        String grant = rows.getString(1);
        if (grant.contains(" ON *.* ")) {
          granted.append(grant).append('\n');
        }
      }
    }
    String grants = granted.toString();
    boolean everything = grants.contains("ALL PRIVILEGES");
    List<Requirement> all = new ArrayList<>();
    for (String right : List.of("REPLICATION SLAVE", "BINLOG MONITOR")) {
      all.add(
          new Requirement(
              "user '%s' has the right %s".formatted(definition.user(), right),
              everything || grants.contains(right),
              List.of("GRANT %s ON *.* TO %s;".formatted(right, account())),
              Requirement.Kind.ADMINISTRATIVE));
    }
    if (all.stream().allMatch(Requirement::met)) {
      all.add(unfiltered());
    }
    return all;
  }

  private String account() throws SQLException {
    return account(connection);
  }

  /** Our account, in the form of statements. */
  static String account(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT current_user()")) {
      rows.next();
      String user = rows.getString(1);
      int at = user.lastIndexOf('@');
      return Sql.MARIADB.text(user.substring(0, at))
          + "@"
          + Sql.MARIADB.text(user.substring(at + 1));
    }
  }

  private Requirement unfiltered() throws SQLException {
    String only = "";
    String ignored = "";
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SHOW MASTER STATUS")) {
      if (rows.next()) {
        only = rows.getString("Binlog_Do_DB");
        ignored = rows.getString("Binlog_Ignore_DB");
      }
    }
    return new Requirement(
        "the log has every database",
        only.isEmpty() && ignored.isEmpty(),
        List.of(
            "-- in the server's configuration: no binlog_do_db and no binlog_ignore_db; then restart"
                + " the server"),
        Requirement.Kind.ADMINISTRATIVE);
  }

  private List<Requirement> table(String table, Set<String> columns) throws SQLException {
    List<Requirement> all = new ArrayList<>();
    boolean found = false;
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT column_name, data_type, character_set_name FROM information_schema.columns"
                + " WHERE table_schema = ? AND table_name = ?")) {
      select.setString(1, definition.database());
      select.setString(2, table);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          found = true;
          String charset = rows.getString("character_set_name");
          if (columns.contains(rows.getString("column_name"))
              && (!MariadbValues.isComparable(rows.getString("data_type"))
                  || charset != null && MariadbValues.charset(charset) == null)) {
            all.add(
                incomparable(table, rows.getString("column_name"), rows.getString("data_type")));
          }
        }
      }
    }
    all.addFirst(
        new Requirement(
            "user '%s' may read table '%s'".formatted(definition.user(), table),
            found,
            List.of(
                "GRANT SELECT ON %s.%s TO %s;"
                    .formatted(
                        Sql.MARIADB.name(definition.database()),
                        Sql.MARIADB.name(table),
                        account())),
            Requirement.Kind.ADMINISTRATIVE));
    return all;
  }

  private static Requirement incomparable(String table, String column, String type) {
    return new Requirement(
        "rows can be related by column '%s.%s' (the log tells its type %s in another form)"
            .formatted(table, column, type),
        false,
        List.of("-- relate rows by another column"),
        Requirement.Kind.ADMINISTRATIVE);
  }

  /**
   * Foreign keys whose actions the server does not log, except those that only remove rows along
   * with their record.
   */
  List<Requirement> silentChanges(RecordShape shape) throws SQLException {
    List<Requirement> all = new ArrayList<>();
    for (String table : shape.watchedColumns().keySet()) {
      Matcher found =
          MariadbCatalogue.FOREIGN_KEY.matcher(MariadbCatalogue.statement(connection, table));
      while (found.find()) {
        String actions = found.group("actions").replaceAll(",$", "").strip();
        boolean silent = actions.matches(".*(CASCADE|SET NULL|SET DEFAULT).*");
        boolean withItsRecord =
            !actions.contains("ON UPDATE")
                && found.group("parent").equals(shape.root())
                && found
                    .group("columns")
                    .equals(
                        String.join(", ", shape.key().stream().map(Sql.POSTGRES::name).toList()));
        if (silent && !withItsRecord) {
          all.add(
              new Requirement(
                  ("rows of '%s' are changed by statements only; but foreign key '%s' to '%s' has"
                          + " %s, and the server does not log what that does: an audit finds it")
                      .formatted(table, found.group("name"), found.group("parent"), actions),
                  false,
                  List.of(),
                  Requirement.Kind.ADVICE));
        }
      }
    }
    return all;
  }

  private String variable(String name) throws SQLException {
    try (PreparedStatement select = connection.prepareStatement("SHOW GLOBAL VARIABLES LIKE ?")) {
      select.setString(1, name.replace("_", "\\_"));
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() ? rows.getString(2) : "";
      }
    }
  }

  private String single(String sql) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery(sql)) {
      return rows.next() ? String.valueOf(rows.getString(1)) : "";
    }
  }
}
