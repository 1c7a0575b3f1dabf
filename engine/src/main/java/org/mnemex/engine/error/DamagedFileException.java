package org.mnemex.engine.error;

import java.nio.file.Path;
import org.jspecify.annotations.Nullable;

/**
 * A file of an edition is missing, cut short, changed, or of a format that this version cannot
 * read.
 */
public final class DamagedFileException extends EngineException {
  private static final long serialVersionUID = 1L;
  private final Path file;

  public DamagedFileException(Path file, String what, @Nullable Throwable cause) {
    super(
        file.getFileName()
            + ": "
            + what
            + "; rebuild the edition from its source, or restore the folder "
            + file.getParent()
            + " from a backup",
        cause);
    this.file = file;
  }

  public Path file() {
    return file;
  }
}
