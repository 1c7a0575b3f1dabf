package org.mnemex.sync.feed;

import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;

/** The edition whose stored records another one is filled from, instead of the database. */
public interface StoredOrigin {
  /**
   * The edition when it is true for a position.
   *
   * @return null while it is not; ask again
   * @throws OriginGoneException if there is no such edition any more
   */
  @Nullable Snapshot at(Position position);

  /** The columns that its stored records have. */
  @Nullable ReadColumns columns();

  /**
   * The keys of records that have no document in it, or an old one, because they are unreadable.
   */
  Set<RecordKey> unreadable();

  /** There is no edition to fill from; the database is left. */
  final class OriginGoneException extends RuntimeException {
    private static final long serialVersionUID = 1;

    public OriginGoneException() {
      super("the edition with the stored records is gone");
    }
  }
}
