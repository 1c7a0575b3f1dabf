package org.mnemex.publish.file;

import java.io.IOException;
import java.nio.file.Path;

/** The files that are needed do not fit into what may be kept of them here. */
public final class PoolTooSmallException extends IOException {
  private static final long serialVersionUID = 1L;

  PoolTooSmallException(Path folder, long limit, long needed) {
    super(
        "%s may keep %,d bytes, but %,d are needed while an index moves on; allow more"
            .formatted(folder, limit, needed));
  }
}
