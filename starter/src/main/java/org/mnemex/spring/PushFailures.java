package org.mnemex.spring;

import org.slf4j.LoggerFactory;

/** Hears of records that could not be pushed after their transaction had committed. */
@FunctionalInterface
public interface PushFailures {
  /** Writes them to the log. */
  PushFailures LOGGED =
      (index, key, why) ->
          LoggerFactory.getLogger(PushFailures.class)
              .error(
                  "record '{}' of index '{}' was not pushed, so the index lacks its change; push it again",
                  key,
                  index,
                  why);

  /**
   * A record was not pushed. The transaction stands.
   *
   * @param why what the client threw
   */
  void failed(String index, String key, RuntimeException why);
}
