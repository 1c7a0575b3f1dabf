package org.mnemex.service.store;

import java.time.Instant;
import java.util.Set;
import org.mnemex.sync.feed.Quarantine;
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
    OurRecords.write(() -> mapper.put(index, edition, key, reason, at.toString()));
  }

  @Override
  public void remove(String index, int edition, String key) {
    OurRecords.write(() -> mapper.remove(index, edition, key));
  }

  @Override
  public void removeAll(String index, int edition) {
    OurRecords.write(() -> mapper.removeAll(index, edition));
  }
}
