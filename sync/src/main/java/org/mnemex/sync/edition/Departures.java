package org.mnemex.sync.edition;

import org.mnemex.sync.source.Source;

/**
 * Tells sources about readers that have ended, so that they keep no changes for them. An
 * unreachable source is told later, even after a restart.
 */
@FunctionalInterface
public interface Departures {
  /**
   * Notes that a reader has ended. Does not wait for the source.
   *
   * @param reader its name, as in {@link Source#capture}
   */
  void leave(Source source, String reader);
}
