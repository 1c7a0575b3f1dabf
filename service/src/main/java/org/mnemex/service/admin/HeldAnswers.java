package org.mnemex.service.admin;

import java.io.BufferedOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;

/**
 * The answers to the lines of a body that is still being read. Most callers start to read when they
 * have sent everything. If more were written before than a connection holds, both sides would wait
 * for each other. So only the first answers are written at once; the others are held in a file.
 */
final class HeldAnswers extends OutputStream {
  /** The buffers of a connection hold more than this on every system. */
  private static final int AT_ONCE_BYTES = 16 << 10;

  private final OutputStream out;
  private int written;
  private @Nullable Path file;
  private @Nullable OutputStream held;

  HeldAnswers(OutputStream out) {
    this.out = out;
  }

  @Override
  public void write(int b) throws IOException {
    write(new byte[] {(byte) b});
  }

  @Override
  public void write(byte[] bytes, int from, int length) throws IOException {
    if (held == null && written + length <= AT_ONCE_BYTES) {
      out.write(bytes, from, length);
      written += length;
    } else {
      held().write(bytes, from, length);
    }
  }

  private OutputStream held() throws IOException {
    if (held == null) {
      file = Files.createTempFile("mnemex-answers", null);
      held = new BufferedOutputStream(Files.newOutputStream(file));
    }
    return held;
  }

  @Override
  public void flush() throws IOException {
    if (held == null) {
      out.flush();
    }
  }

  /** Writes the answers that were held, after the whole body has been read. */
  void release() throws IOException {
    if (held != null && file != null) {
      held.close();
      Files.copy(file, out);
    }
    out.flush();
  }

  @Override
  public void close() throws IOException {
    if (held != null && file != null) {
      held.close();
      Files.delete(file);
    }
  }
}
