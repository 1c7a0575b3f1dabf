package org.mnemex.sync.edition;

import org.mnemex.sync.source.Source;

/**
 * Tells sources of readers that will not come back, so that they keep no changes for them. A source
 * that is away hears of it later, also after a restart.
 */
@FunctionalInterface
public interface Departures {
  /**
   * Notes that a reader will not come back. Does not wait for the source.
   *
   * @param reader its name, as in {@link Source#capture}
   */
  void leave(Source source, String reader);
}
