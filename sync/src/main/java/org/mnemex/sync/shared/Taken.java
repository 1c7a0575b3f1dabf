package org.mnemex.sync.shared;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Position;

/**
 * What a reader takes from a {@link ChangeWindow}.
 *
 * @param pieces in order; the changes of the first may lack those taken before
 * @param upTo the position after them
 * @param cut whether the rest of a transaction is on its way; false while other readers have to be
 *     waited for
 * @param complete whether that was all there was when somebody last looked
 * @param allAt a moment, by {@link System#nanoTime}, at which everything up to {@code upTo} was all
 *     there was; null if unknown
 */
public record Taken(
    List<Piece> pieces, Position upTo, boolean cut, boolean complete, @Nullable Long allAt) {}
