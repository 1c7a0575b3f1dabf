package org.mnemex.service.store;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.util.Set;
import org.mnemex.sync.feed.Quarantine;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/** The quarantine in our records. */
@Component
public class StoredQuarantine implements Quarantine {
  private final QuarantineMapper mapper;

  public StoredQuarantine(QuarantineMapper mapper) {
    this.mapper = mapper;
  }

  @Override
  public Set<String> keys(String index, int edition) {
    return mapper.keys(index, edition);
  }

  @Override
  public void put(String index, int edition, String key, String reason, Instant at) {
    writing(() -> mapper.put(index, edition, key, reason, at.toString()));
  }

  @Override
  public void remove(String index, int edition, String key) {
    writing(() -> mapper.remove(index, edition, key));
  }

  @Override
  public void removeAll(String index, int edition) {
    writing(() -> mapper.removeAll(index, edition));
  }

  /** A disk without room is no mistake in the feed that writes: it waits and tries again. */
  private static void writing(Runnable work) {
    try {
      work.run();
    } catch (DataAccessException e) {
      throw new UncheckedIOException(
          new IOException(
              "our records cannot be written: " + e.getMostSpecificCause().getMessage(), e));
    }
  }
}
