package org.mnemex.engine.error;

/** A search took longer than it may. */
public final class SearchTimeoutException extends EngineException {
  private static final long serialVersionUID = 1L;

  public SearchTimeoutException(long millis, long documentsSeen, long documents) {
    super(
        ("the search did not finish in %d ms (%d of %d documents were looked at); narrow it with a"
                + " filter, ask for fewer facets, or allow more time")
            .formatted(millis, documentsSeen, documents),
        null);
  }
}
