package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Whether a source can be followed.
 *
 * @param problem why it does not answer; empty if it does
 * @param encrypted whether connections are encrypted; null where nothing leaves the machine
 * @param requirements what it must have for the indexes that use it
 * @param readers for whom it keeps changes
 */
public record SourceCheck(
    String source,
    boolean reachable,
    String problem,
    @Nullable Boolean encrypted,
    List<Requirement> requirements,
    List<Reader> readers) {

  /**
   * Somebody for whom a source keeps changes.
   *
   * @param name as the database knows it
   * @param feeds the edition that it is for, in words; null if none of this installation
   * @param retained how much is kept for it
   * @param unit bytes or changes
   */
  public record Reader(String name, @Nullable String feeds, long retained, String unit) {}

  /**
   * Something that a database needs so that its changes can be followed.
   *
   * @param what what is needed, in one sentence
   * @param met whether it is there
   * @param statements what to run if it is not, in order
   * @param kind whether it is required or only advised
   */
  public record Requirement(String what, boolean met, List<String> statements, String kind) {
    /** Whether nothing can be followed before it is there. */
    public boolean isMissing() {
      return !met && !isAdvice();
    }

    /** Whether it is only advised. */
    public boolean isAdvice() {
      return kind.equals("ADVICE");
    }
  }

  /** Whether nothing is missing. */
  public boolean passed() {
    return reachable && requirements.stream().noneMatch(Requirement::isMissing);
  }
}
