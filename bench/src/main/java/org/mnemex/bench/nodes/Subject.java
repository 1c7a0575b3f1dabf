package org.mnemex.bench.nodes;

import java.sql.Connection;
import java.sql.SQLException;

/** A database and the endpoint over it that are measured. */
interface Subject {
  /** The name of the endpoint. */
  String endpoint();

  /** A word that some records have. */
  String word();

  /** Connects to the database. */
  Connection connect() throws SQLException;

  /** A statement that gives one record a text, which it has as its only parameter. */
  String change();
}
