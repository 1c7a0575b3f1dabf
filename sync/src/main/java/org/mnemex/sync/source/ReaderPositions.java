package org.mnemex.sync.source;

import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * How far each reader of an installation is, for sources that several readers share: the source
 * must keep what the slowest of them needs. Thread-safe.
 */
public final class ReaderPositions {
  private final Existing existing;
  private final Map<String, Map<String, Position>> bySource = new HashMap<>();
  private final Map<String, Set<String>> left = new HashMap<>();
  private final Map<String, Set<String>> expected = new HashMap<>();

  /** Tells which readers exist, even if they are not running. */
  public interface Existing {
    /** Whether all readers are known by now. */
    boolean areKnown();

    /** The readers of a source. */
    Set<String> at(String source);
  }

  /** Positions of readers, unknown until they are noted. */
  public ReaderPositions(Existing existing) {
    this.existing = existing;
  }

  /** Positions of those readers only that are noted. */
  public ReaderPositions() {
    this(
        new Existing() {
          @Override
          public boolean areKnown() {
            return true;
          }

          @Override
          public Set<String> at(String source) {
            return Set.of();
          }
        });
  }

  /** Whether all readers are known by now. */
  public boolean areKnown() {
    return existing.areKnown();
  }

  /** Expects a position to be noted for a reader soon. */
  public synchronized void expect(String source, String reader) {
    expected.computeIfAbsent(source, name -> new HashSet<>()).add(reader);
  }

  /** Notes that a reader needs everything after a position. */
  public synchronized void note(String source, String reader, Position position) {
    bySource.computeIfAbsent(source, name -> new HashMap<>()).put(reader, position);
    expected.getOrDefault(source, new HashSet<>()).remove(reader);
    left.computeIfAbsent(source, name -> new HashSet<>()).remove(reader);
  }

  /** Notes that a reader needs less than before, unless it has left. */
  public synchronized void advance(String source, String reader, Position position) {
    if (bySource.getOrDefault(source, Map.of()).containsKey(reader)) {
      note(source, reader, position);
    }
  }

  /** Notes that a reader needs nothing any more. */
  public synchronized void leave(String source, String reader) {
    bySource.computeIfAbsent(source, name -> new HashMap<>()).remove(reader);
    expected.getOrDefault(source, new HashSet<>()).remove(reader);
    left.computeIfAbsent(source, name -> new HashSet<>()).add(reader);
  }

  /** The position of a reader; null if unknown. */
  public synchronized @Nullable Position of(String source, String reader) {
    return bySource.getOrDefault(source, Map.of()).get(reader);
  }

  /** Whether a source has any reader. */
  public boolean isNeeded(String source) {
    Set<String> readers = existing.at(source);
    synchronized (this) {
      return !areKnown()
          || !bySource.getOrDefault(source, Map.of()).isEmpty()
          || !expected.getOrDefault(source, Set.of()).isEmpty()
          || !left.getOrDefault(source, Set.of()).containsAll(readers);
    }
  }

  /**
   * The position up to which no reader needs anything.
   *
   * @param history the history that the positions belong to; readers in another one do not count
   * @param given up to where changes were given up before; readers that needed them do not count
   * @return null if a reader's position is unknown, or nobody needs anything
   */
  public @Nullable Position least(String source, String history, long given) {
    Set<String> readers = existing.at(source);
    synchronized (this) {
      Map<String, Position> known = bySource.getOrDefault(source, Map.of());
      Set<String> gone = left.getOrDefault(source, Set.of());
      if (!areKnown()
          || !expected.getOrDefault(source, Set.of()).isEmpty()
          || !readers.stream().allMatch(r -> known.containsKey(r) || gone.contains(r))) {
        return null;
      }
      return known.values().stream()
          .filter(position -> position.history().equals(history))
          .filter(position -> Long.compareUnsigned(position.number(), given) >= 0)
          .min((one, other) -> Long.compareUnsigned(one.number(), other.number()))
          .orElse(null);
    }
  }
}
