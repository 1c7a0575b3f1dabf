package org.mnemex.engine.error;

/** A search exceeded its time limit. */
public final class SearchTimeoutException extends EngineException {
  private static final long serialVersionUID = 1L;

  /** One that was told by another machine. */
  public SearchTimeoutException(String message) {
    super(message, null);
  }

  public SearchTimeoutException(long millis, long documentsSeen, long documents) {
    super(
        ("the search did not finish in %d ms (%d of %d documents were examined); narrow it with a"
                + " filter, ask for fewer facets, or allow more time")
            .formatted(millis, documentsSeen, documents),
        null);
  }
}
