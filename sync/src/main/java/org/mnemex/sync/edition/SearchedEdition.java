package org.mnemex.sync.edition;

import java.time.Instant;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.schema.Schema;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.source.Position;

/** An edition that can be searched: one that is built here, or the copy of one. */
public interface SearchedEdition {
  /** Its number. */
  int number();

  /** The version of its definition. */
  int version();

  /** What it is searched as. */
  IndexDefinition definition();

  /**
   * Reads the snapshot of this moment.
   *
   * @throws EditionDamagedException if its files are damaged
   */
  default <T extends @Nullable Object> T search(Function<SearchView, T> work) {
    return search(null, work);
  }

  /**
   * Reads the snapshot of this moment.
   *
   * @param other the schema to read it with, of the same files; null: its own
   * @throws EditionDamagedException if its files are damaged
   */
  <T extends @Nullable Object> T search(@Nullable Schema other, Function<SearchView, T> work);

  /**
   * Reads what can be read of the snapshot of this moment; {@link SearchView#away} says what
   * cannot.
   *
   * @param other the schema to read it with, of the same files; null: its own
   * @throws EditionDamagedException if its files are damaged
   */
  default <T extends @Nullable Object> T searchReachable(
      @Nullable Schema other, Function<SearchView, T> work) {
    return search(other, work);
  }

  /** What it contains now: as long as this text is the same, so are the answers. */
  String state();

  /** Whether the document of a record may be outdated, as the record could not be mapped since. */
  boolean isSetAside(String key);

  /** The moment up to which it includes everything, at least; null if unknown. */
  @Nullable Instant trueAt();

  /** The position of its source up to which it includes everything; null if unknown. */
  @Nullable Position position();

  /** Why its files cannot be trusted any more, or null. */
  @Nullable String damage();
}
