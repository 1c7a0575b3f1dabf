package org.mnemex.bench;

import java.io.IOException;
import java.sql.SQLException;
import java.util.Map;
import java.util.stream.Stream;

/** Records of one's own, to be measured with. */
interface OwnRecords {
  /** PostgreSQL's type of what is text. */
  String TEXT = "text";

  /** What they are called. */
  String name();

  /** PostgreSQL's types by name. */
  Map<String, String> columns() throws IOException, SQLException;

  /** Values by name, as PostgreSQL reads them; without those that are null. To be closed. */
  Stream<Map<String, String>> records() throws IOException, SQLException;
}
