package org.mnemex.engine.error;

import java.nio.file.Path;

/**
 * A file of an edition was written by a newer version of Mnemex. It is in order, and must be kept:
 * the version that wrote it reads it.
 */
public final class NewerFormatException extends EngineException {
  private static final long serialVersionUID = 1L;

  /**
   * @param found the file's format version
   * @param known the newest format version that this program reads
   */
  public NewerFormatException(Path file, int found, int known) {
    super(
        "%s has format version %d; this version of Mnemex reads format versions up to %d. Start the newer version that wrote it again, or move the folder %s away to rebuild the index; nothing has changed"
            .formatted(file.getFileName(), found, known, file.getParent()),
        null);
  }
}
