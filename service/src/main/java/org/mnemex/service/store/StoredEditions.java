package org.mnemex.service.store;

import java.time.Clock;
import java.util.List;
import org.mnemex.sync.edition.EditionStore;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Editions written down in our records. */
@Component
public class StoredEditions implements EditionStore {
  private final EditionMapper mapper;
  private final Clock clock;

  public StoredEditions(EditionMapper mapper, Clock clock) {
    this.mapper = mapper;
    this.clock = clock;
  }

  @Override
  public List<EditionEntry> of(String index) {
    return mapper.of(index).stream()
        .map(
            row ->
                new EditionEntry(
                    row.indexName(), row.number(), row.version(), State.valueOf(row.state())))
        .toList();
  }

  @Override
  public void save(EditionEntry entry) {
    mapper.save(row(entry), clock.instant().toString());
  }

  @Override
  @Transactional
  public void promote(EditionEntry promoted, int retired) {
    String now = clock.instant().toString();
    mapper.retire(promoted.index(), retired, now);
    mapper.save(row(promoted), now);
  }

  private static EditionMapper.EditionRow row(EditionEntry entry) {
    return new EditionMapper.EditionRow(
        entry.index(), entry.number(), entry.version(), entry.state().name());
  }
}
