package org.mnemex.sync.source;

import java.util.List;

/** Something must be made in the database first, and Mnemex may not do so by itself. */
public final class NotPreparedException extends Exception {
  private static final long serialVersionUID = 1L;
  private final transient List<String> statements;

  public NotPreparedException(String source, List<String> statements) {
    super(
        "source '"
            + source
            + "' is not prepared; apply with --prepare, write 'prepare: automatic' into its definition,"
            + " or run:\n"
            + String.join("\n", statements));
    this.statements = List.copyOf(statements);
  }

  /** What to run, in order. */
  public List<String> statements() {
    return statements;
  }
}
