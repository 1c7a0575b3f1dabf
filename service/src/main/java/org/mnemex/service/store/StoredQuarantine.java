package org.mnemex.service.store;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Set;
import java.util.function.Consumer;
import org.mnemex.sync.feed.Quarantine;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** The quarantine in our records. */
@Component
public class StoredQuarantine implements Quarantine {
  private final QuarantineMapper mapper;
  private final TransactionTemplate transaction;

  public StoredQuarantine(QuarantineMapper mapper, TransactionTemplate transaction) {
    this.mapper = mapper;
    this.transaction = transaction;
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
    OurRecords.write(
        () ->
            transaction.executeWithoutResult(
                status -> {
                  mapper.removeAll(index, edition);
                  mapper.removeRequests(index, edition);
                }));
  }

  @Override
  public void ask(String index, int edition, Collection<String> keys) {
    each(keys, key -> mapper.ask(index, edition, key));
  }

  @Override
  public List<String> asked(String index, int edition, int limit) {
    return mapper.asked(index, edition, limit);
  }

  @Override
  public void answered(String index, int edition, Collection<String> keys) {
    each(keys, key -> mapper.answered(index, edition, key));
  }

  private void each(Collection<String> keys, Consumer<String> work) {
    OurRecords.write(() -> transaction.executeWithoutResult(status -> keys.forEach(work)));
  }
}
