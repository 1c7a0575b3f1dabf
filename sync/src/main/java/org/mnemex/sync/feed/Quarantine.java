package org.mnemex.sync.feed;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Set;

/**
 * Where records wait: those that could not be read or mapped, and those that somebody has asked to
 * be read again. What is written outlives the service.
 */
public interface Quarantine {
  /** The keys that are in quarantine. */
  Set<String> keys(String index, int edition);

  /** Puts a record in, or gives it another reason. */
  void put(String index, int edition, String key, String reason, Instant at);

  /** Takes a record out, if it is in. */
  void remove(String index, int edition, String key);

  /** Forgets all that waits of an edition. */
  void removeAll(String index, int edition);

  /** Notes that records are to be read again. */
  void ask(String index, int edition, Collection<String> keys);

  /** Some of the records that are to be read again. */
  List<String> asked(String index, int edition, int limit);

  /** Notes that records were read again, and that no crash can undo it. */
  void answered(String index, int edition, Collection<String> keys);
}
