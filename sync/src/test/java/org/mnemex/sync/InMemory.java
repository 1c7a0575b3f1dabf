package org.mnemex.sync;

import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.edition.EditionStore;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.push.PushStore;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/** Keeps in memory what a service keeps in its database. */
public final class InMemory {
  private InMemory() {}

  /** Tells a source at once that a reader will not come back. */
  public static void leave(Source source, String reader) {
    try (Source.Capture capture = source.capture(reader)) {
      capture.leave();
    } catch (SourceUnavailableException e) {
      // A test has taken its database away.
      return;
    }
  }

  /** Editions of one index. */
  public static final class Editions implements EditionStore {
    private final Map<Integer, EditionEntry> entries = new LinkedHashMap<>();

    @Override
    public synchronized List<EditionEntry> of(String index) {
      return entries.values().stream()
          .sorted(Comparator.comparingInt(EditionEntry::number))
          .toList();
    }

    @Override
    public synchronized void saveWith(Runnable also, EditionEntry... written) {
      also.run();
      for (EditionEntry entry : written) {
        entries.put(entry.number(), entry);
      }
    }
  }

  /** The quarantine of one index. */
  public static final class Records implements Quarantine {
    private final Map<Integer, Map<String, String>> reasons = new TreeMap<>();
    private final Map<Integer, TreeSet<String>> asked = new TreeMap<>();

    @Override
    public synchronized Set<String> keys(String index, int edition) {
      return new TreeSet<>(reasons.getOrDefault(edition, Map.of()).keySet());
    }

    /** Why a record is in it, or null. */
    public synchronized @Nullable String reason(int edition, String key) {
      return reasons.getOrDefault(edition, Map.of()).get(key);
    }

    @Override
    public synchronized void put(String index, int edition, String key, String reason, Instant at) {
      reasons.computeIfAbsent(edition, number -> new TreeMap<>()).put(key, reason);
    }

    @Override
    public synchronized void remove(String index, int edition, String key) {
      reasons.getOrDefault(edition, new TreeMap<>()).remove(key);
    }

    @Override
    public synchronized void removeAll(String index, int edition) {
      reasons.remove(edition);
      asked.remove(edition);
    }

    @Override
    public synchronized void ask(String index, int edition, Collection<String> keys) {
      asked.computeIfAbsent(edition, number -> new TreeSet<>()).addAll(keys);
    }

    @Override
    public synchronized List<String> asked(String index, int edition, int limit) {
      return asked.getOrDefault(edition, new TreeSet<>()).stream().limit(limit).toList();
    }

    @Override
    public synchronized void answered(String index, int edition, Collection<String> keys) {
      asked.getOrDefault(edition, new TreeSet<>()).removeAll(keys);
    }
  }

  /** The records of one push source. */
  public static final class Pushes implements PushStore {
    private final TreeMap<String, Pushed> records = new TreeMap<>();
    private long last;

    @Override
    public String history(String source) {
      return "push";
    }

    @Override
    public synchronized long last(String source) {
      return last;
    }

    @Override
    public synchronized long write(String source, Map<String, @Nullable String> contents) {
      contents.forEach((key, content) -> records.put(key, new Pushed(key, content, ++last)));
      return last;
    }

    private synchronized Stream<Pushed> after(@Nullable String after) {
      return List.copyOf(records.tailMap(after == null ? "" : after, false).values()).stream()
          .filter(record -> record.content() != null);
    }

    @Override
    public synchronized List<Pushed> read(String source, Collection<String> keys) {
      return keys.stream().map(records::get).filter(Objects::nonNull).toList();
    }

    @Override
    public List<Pushed> readAfter(String source, @Nullable String after, int limit) {
      return after(after).limit(limit).toList();
    }

    @Override
    public List<Pushed> readBetween(String source, @Nullable String after, @Nullable String upTo) {
      return after(after).filter(r -> upTo == null || r.key().compareTo(upTo) <= 0).toList();
    }

    @Override
    public @Nullable String skip(String source, @Nullable String after, int count) {
      return after(after).skip(count - 1L).map(Pushed::key).findFirst().orElse(null);
    }

    @Override
    public long count(String source) {
      return after(null).count();
    }

    @Override
    public synchronized List<Pushed> changesAfter(String source, long number, int limit) {
      return records.values().stream()
          .filter(record -> record.number() > number)
          .sorted(Comparator.comparingLong(Pushed::number))
          .limit(limit)
          .toList();
    }

    @Override
    public void done(String source, String reader, long number) {
      // Deletions are kept.
    }

    @Override
    public void leave(String source, String reader) {
      // Nobody is known.
    }

    @Override
    public long trimmed(String source) {
      return 0;
    }

    @Override
    public synchronized void removeAll(String source) {
      records.clear();
    }
  }
}
