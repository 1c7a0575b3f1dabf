package org.mnemex.sync.edition;

import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.feed.StoredOrigin;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;

/** The stored records of the live edition, to fill another edition from. */
final class LiveRecords implements StoredOrigin {
  private final String keptAs;
  private final int keyColumns;
  private final Quarantine quarantine;
  private final Supplier<@Nullable Edition> liveEdition;

  /**
   * @param keptAs the storage name of the index
   * @param keyColumns the number of key columns
   */
  LiveRecords(
      String keptAs,
      int keyColumns,
      Quarantine quarantine,
      Supplier<@Nullable Edition> liveEdition) {
    this.keptAs = keptAs;
    this.keyColumns = keyColumns;
    this.quarantine = quarantine;
    this.liveEdition = liveEdition;
  }

  private Edition live() {
    Edition live = liveEdition.get();
    if (live == null) {
      throw new OriginGoneException();
    }
    return live;
  }

  @Override
  public @Nullable Snapshot at(Position position) {
    Edition live = live();
    Position visible = live.feed().position();
    if (live.feed().phase() == FeedStatus.Phase.LOST
        || visible != null && !visible.history().equals(position.history())) {
      throw new OriginGoneException();
    }
    return live.feed().isComplete() && visible != null && visible.reaches(position)
        ? live.folder().snapshot()
        : null;
  }

  @Override
  public @Nullable ReadColumns columns() {
    Edition live = liveEdition.get();
    return live == null ? null : live.feed().columns();
  }

  @Override
  public Set<RecordKey> unreadable() {
    return quarantine.keys(keptAs, live().number()).stream()
        .map(key -> RecordKey.parse(key, keyColumns))
        .collect(Collectors.toSet());
  }
}
