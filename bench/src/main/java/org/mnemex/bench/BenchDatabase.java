package org.mnemex.bench;

import java.io.IOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;

/** The garden in one kind of database, and what the service is measured beside there. */
public interface BenchDatabase extends AutoCloseable {
  String name();

  /** Environment variables that the definitions need. */
  Map<String, String> environment();

  /** Definition files in place of those of the example, by name. */
  Map<String, String> definitions() throws IOException;

  Connection connect() throws SQLException;

  /** One set-based query that gives the same records as JSON. */
  String recordsAsJson();

  /** A reader of changes from its start on. */
  BareReader bareReader() throws SQLException;

  @Override
  void close() throws IOException;

  /** Receives changes and ignores them. */
  interface BareReader extends AutoCloseable {
    /** Begins to follow, from where it was made. */
    void begin();

    /** A number that grows when a change is seen. */
    long seen();

    @Override
    void close() throws InterruptedException;
  }
}
