package org.mnemex.sync.feed;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Set;

/** Persists records that could not be read or mapped, and requests to read records again. */
public interface Quarantine {
  /** The keys that are in quarantine. */
  Set<String> keys(String index, int edition);

  /** Adds a record, or changes its reason. */
  void put(String index, int edition, String key, String reason, Instant at);

  /** Removes a record, if present. */
  void remove(String index, int edition, String key);

  /** Forgets everything of an edition. */
  void removeAll(String index, int edition);

  /** Requests records to be read again. */
  void ask(String index, int edition, Collection<String> keys);

  /** Some of the requested records. */
  List<String> asked(String index, int edition, int limit);

  /** Notes that requested records were read and committed. */
  void answered(String index, int edition, Collection<String> keys);
}
