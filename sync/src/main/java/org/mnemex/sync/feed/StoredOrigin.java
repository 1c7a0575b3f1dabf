package org.mnemex.sync.feed;

import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;

/** The edition whose stored records fill another one. */
public interface StoredOrigin {
  /**
   * The edition, once it includes a position.
   *
   * @return null while it does not; ask again
   * @throws OriginGoneException if the edition is gone
   */
  @Nullable Snapshot at(Position position);

  /** The columns of its stored records. */
  @Nullable ReadColumns columns();

  /** The keys of its records in quarantine. */
  Set<RecordKey> unreadable();

  /** There is no edition to fill from; use the database. */
  final class OriginGoneException extends RuntimeException {
    private static final long serialVersionUID = 1;

    public OriginGoneException() {
      super("the edition with the stored records is gone");
    }
  }
}
