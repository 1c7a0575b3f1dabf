package org.mnemex.engine.error;

import java.nio.file.Path;

/** Another process, or another part of this one, writes to the edition's folder. */
public final class FolderInUseException extends EngineException {
  private static final long serialVersionUID = 1L;

  public FolderInUseException(Path folder) {
    super("edition folder " + folder + " is in use by another writer; stop that one first", null);
  }
}
