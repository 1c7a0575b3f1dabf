package org.mnemex.service.store;

import java.time.Clock;
import java.time.Instant;
import java.util.List;
import org.mnemex.sync.edition.EditionStore;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** Keeps editions in our records. */
@Component
public class StoredEditions implements EditionStore {
  private final EditionMapper mapper;
  private final TransactionTemplate transaction;
  private final Clock clock;

  public StoredEditions(EditionMapper mapper, TransactionTemplate transaction, Clock clock) {
    this.mapper = mapper;
    this.transaction = transaction;
    this.clock = clock;
  }

  @Override
  public List<EditionEntry> of(String index) {
    return mapper.of(index).stream().map(StoredEditions::entry).toList();
  }

  @Override
  public void saveWith(Runnable also, EditionEntry... entries) {
    String now = clock.instant().toString();
    OurRecords.write(
        () ->
            transaction.executeWithoutResult(
                status -> {
                  also.run();
                  for (EditionEntry entry : entries) {
                    mapper.save(row(entry), now);
                  }
                }));
  }

  private static EditionEntry entry(EditionMapper.EditionRow row) {
    return new EditionEntry(
        row.indexName(),
        row.number(),
        row.version(),
        State.valueOf(row.state()),
        new FillPlan(row.fromStored(), row.hold()),
        row.until() == null ? null : Instant.parse(row.until()),
        row.filledRecords() == null || row.filledMillis() == null
            ? null
            : new Filled(row.filledRecords(), row.filledMillis()));
  }

  private static EditionMapper.EditionRow row(EditionEntry entry) {
    Filled filled = entry.filled();
    return new EditionMapper.EditionRow(
        entry.index(),
        entry.number(),
        entry.version(),
        entry.state().name(),
        entry.plan().fromStored(),
        entry.plan().hold(),
        entry.until() == null ? null : entry.until().toString(),
        filled == null ? null : filled.records(),
        filled == null ? null : filled.millis());
  }
}
