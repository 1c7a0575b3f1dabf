package org.mnemex.service.store;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.push.PushStore;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** Keeps pushed records in our database, which is synchronised with the disk at every commit. */
@Component
public class StoredPushes implements PushStore {
  /** SQLite allows some 32,000 parameters. */
  private static final int KEYS_PER_STATEMENT = 500;

  private final PushMapper mapper;
  private final TransactionTemplate transaction;

  StoredPushes(PushMapper mapper, TransactionTemplate transaction) {
    this.mapper = mapper;
    this.transaction = transaction;
  }

  private PushMapper.PushSourceRow source(String source) {
    PushMapper.PushSourceRow row = mapper.source(source);
    if (row == null) {
      mapper.begin(source, "push-" + UUID.randomUUID().toString().substring(0, 8));
      row = mapper.source(source);
    }
    if (row == null) {
      throw new IllegalStateException("source '" + source + "' could not be recorded");
    }
    return row;
  }

  @Override
  public String history(String source) {
    return source(source).history();
  }

  @Override
  public long last(String source) {
    return source(source).last();
  }

  @Override
  public long write(String source, Map<String, @Nullable String> contents) {
    return transaction.execute(status -> written(source, contents));
  }

  private long written(String source, Map<String, @Nullable String> contents) {
    long number = source(source).last();
    for (Map.Entry<String, @Nullable String> entry : contents.entrySet()) {
      number++;
      mapper.put(source, entry.getKey(), entry.getValue(), number);
    }
    mapper.setLast(source, number);
    return number;
  }

  @Override
  public List<Pushed> read(String source, Collection<String> keys) {
    List<String> all = List.copyOf(keys);
    List<Pushed> found = new ArrayList<>();
    for (int from = 0; from < all.size(); from += KEYS_PER_STATEMENT) {
      found.addAll(
          pushed(
              mapper.read(
                  source, all.subList(from, Math.min(all.size(), from + KEYS_PER_STATEMENT)))));
    }
    return found;
  }

  @Override
  public List<Pushed> readAfter(String source, @Nullable String after, int limit) {
    return pushed(mapper.readAfter(source, after == null ? "" : after, limit));
  }

  @Override
  public List<Pushed> readBetween(String source, @Nullable String after, @Nullable String upTo) {
    return pushed(mapper.readBetween(source, after == null ? "" : after, upTo));
  }

  @Override
  public @Nullable String skip(String source, @Nullable String after, int records) {
    return mapper.keyAt(source, after == null ? "" : after, records - 1);
  }

  @Override
  public long count(String source) {
    return mapper.count(source);
  }

  @Override
  public List<Pushed> changesAfter(String source, long number, int limit) {
    return pushed(mapper.changesAfter(source, number, limit));
  }

  @Override
  public void done(String source, String reader, long number) {
    transaction.executeWithoutResult(
        status -> {
          mapper.note(source, reader, number);
          long needed = mapper.lowest(source);
          if (mapper.forgetDeletions(source, needed) > 0) {
            mapper.setTrimmed(source, needed);
          }
        });
  }

  @Override
  public void leave(String source, String reader) {
    mapper.leave(source, reader);
  }

  @Override
  public long trimmed(String source) {
    return source(source).trimmed();
  }

  @Override
  public void removeAll(String source) {
    transaction.executeWithoutResult(
        status -> {
          mapper.removeRecords(source);
          mapper.removeReaders(source);
          mapper.removeSource(source);
        });
  }

  private static List<Pushed> pushed(List<PushMapper.PushRow> rows) {
    return rows.stream()
        .map(row -> new Pushed(row.recordKey(), row.content(), row.number()))
        .toList();
  }
}
