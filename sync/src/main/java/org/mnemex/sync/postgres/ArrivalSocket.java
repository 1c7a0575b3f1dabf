package org.mnemex.sync.postgres;

import java.io.IOException;
import java.io.InputStream;
import java.net.Socket;
import java.net.SocketTimeoutException;
import org.jspecify.annotations.Nullable;

/**
 * A socket whose reader can wait until something arrives, without reading it. The driver can only
 * ask again and again, which takes the processor while nothing happens and time when something
 * does. One thread reads and waits.
 */
final class ArrivalSocket extends Socket {
  private static final int NOTHING = -2;
  private static final int END = -1;

  private @Nullable Arrivals arrivals;

  /** Whether there is something to read. The end is only found by waiting for it. */
  boolean hasArrived() throws IOException {
    return arrivals().available() > 0;
  }

  /**
   * Waits until there is something to read, or the end.
   *
   * @param millis how long, more than 0
   * @return whether there is
   */
  boolean awaitArrival(int millis) throws IOException {
    if (hasArrived()) {
      return true;
    }
    int before = getSoTimeout();
    setSoTimeout(millis);
    try {
      arrivals().look();
      return true;
    } catch (SocketTimeoutException e) {
      return false;
    } finally {
      setSoTimeout(before);
    }
  }

  @Override
  public InputStream getInputStream() throws IOException {
    return arrivals();
  }

  private synchronized Arrivals arrivals() throws IOException {
    Arrivals open = arrivals;
    if (open == null) {
      open = new Arrivals(super.getInputStream());
      arrivals = open;
    }
    return open;
  }

  /** What arrives; its first byte may have been looked at. */
  private static final class Arrivals extends InputStream {
    private final InputStream in;
    private int first = NOTHING;

    Arrivals(InputStream in) {
      this.in = in;
    }

    void look() throws IOException {
      if (first == NOTHING) {
        first = in.read();
      }
    }

    @Override
    public int read() throws IOException {
      look();
      int next = first;
      first = next == END ? END : NOTHING;
      return next;
    }

    @Override
    public int read(byte[] bytes, int from, int length) throws IOException {
      if (length == 0 || first == NOTHING) {
        return in.read(bytes, from, length);
      }
      if (first == END) {
        return END;
      }
      bytes[from] = (byte) read();
      int more = Math.min(length - 1, in.available());
      return 1 + (more == 0 ? 0 : Math.max(0, in.read(bytes, from + 1, more)));
    }

    @Override
    public int available() throws IOException {
      return in.available() + (first >= 0 ? 1 : 0);
    }

    @Override
    public void close() throws IOException {
      in.close();
    }
  }
}
