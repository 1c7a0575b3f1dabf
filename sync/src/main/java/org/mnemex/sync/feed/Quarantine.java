package org.mnemex.sync.feed;

import java.time.Instant;
import java.util.Set;

/** Where records wait that could not be read or mapped. */
public interface Quarantine {
  /** The keys that are in it. */
  Set<String> keys(String index, int edition);

  /** Puts a record in, or gives it another reason. */
  void put(String index, int edition, String key, String reason, Instant at);

  /** Takes a record out, if it is in. */
  void remove(String index, int edition, String key);

  /** Forgets all records of an edition. */
  void removeAll(String index, int edition);
}
