package org.mnemex.sync.edition;

import org.jspecify.annotations.Nullable;

/** The files of an edition are damaged, so its answers cannot be trusted. */
public final class EditionDamagedException extends RuntimeException {
  private static final long serialVersionUID = 1;

  /**
   * @param why what is wrong, and what becomes of it
   */
  public EditionDamagedException(String index, int edition, String why, @Nullable Throwable cause) {
    super("edition %d of index '%s' is damaged: %s".formatted(edition, index, why), cause);
  }
}
