package org.mnemex.service.install;

import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Position;

/** A position as a caller gives it. */
public final class ToldPosition {
  private ToldPosition() {}

  /**
   * Reads a position.
   *
   * @param source the source that it belongs to; null if that is known to the builder only, so that
   *     it may be written as any of the databases writes it
   * @throws IllegalArgumentException if it is not one
   */
  public static Position read(String text, @Nullable RunningSource source) {
    if (source != null) {
      return source.source().position(text);
    }
    try {
      Position postgres = PostgresSource.told(text);
      Position told = postgres == null ? MariadbSource.told(text) : postgres;
      return Objects.requireNonNullElseGet(told, () -> Position.parse(text));
    } catch (NumberFormatException e) {
      throw new IllegalArgumentException("'" + text + "' is not a position", e);
    }
  }
}
