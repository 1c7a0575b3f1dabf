package org.mnemex.sync.source;

import java.util.List;

/** The database lacks something that Mnemex may not create without consent. */
public final class NotPreparedException extends Exception {
  private static final long serialVersionUID = 1L;
  private final transient List<String> statements;

  /**
   * @param missing missing requirements, at least one
   */
  public NotPreparedException(String source, List<Requirement> missing) {
    this(
        "source '%s' is not prepared; %s:\n%s"
            .formatted(source, whoCan(missing), String.join("\n", statements(missing))),
        statements(missing),
        null);
  }

  private static String whoCan(List<Requirement> missing) {
    if (missing.stream().allMatch(r -> r.kind() == Requirement.Kind.PREPARABLE)) {
      return "apply with --prepare, write 'prepare: automatic' into its definition, or run";
    }
    return "an administrator of the database has to run";
  }

  private static List<String> statements(List<Requirement> missing) {
    return missing.stream().flatMap(r -> r.statements().stream()).toList();
  }

  private NotPreparedException(
      String message, List<String> statements, @org.jspecify.annotations.Nullable Throwable cause) {
    super(message, cause);
    this.statements = statements;
  }

  /**
   * The database refused to run a statement.
   *
   * @param refused the statement
   * @param why the database's message
   * @param done statements that ran before it and stay; empty if nothing has changed
   * @param left what an administrator has to run, the refused statement first
   */
  public static NotPreparedException refused(
      String source, String refused, Throwable why, List<String> done, List<String> left) {
    return new NotPreparedException(
        "the database of source '%s' refused a statement: %s\n%s\n%s. An administrator has to run:\n%s"
            .formatted(
                source,
                why.getMessage(),
                refused,
                done.isEmpty()
                    ? "Nothing was changed in it"
                    : "These were run before it:\n%s\nThey stay".formatted(String.join("\n", done)),
                String.join("\n", left)),
        List.copyOf(left),
        why);
  }

  /** What to run, in order. */
  public List<String> statements() {
    return statements;
  }
}
