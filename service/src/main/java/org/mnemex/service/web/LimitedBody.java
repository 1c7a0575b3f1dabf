package org.mnemex.service.web;

import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletRequestWrapper;
import java.io.IOException;
import java.net.SocketTimeoutException;
import java.time.Duration;
import org.jspecify.annotations.Nullable;

/**
 * A request whose body fails beyond a size, whatever length it declared, and beyond a time, however
 * often a piece of it arrives.
 */
final class LimitedBody extends HttpServletRequestWrapper {
  /** No limit. */
  static final long ANY_SIZE = Long.MAX_VALUE;

  /** No limit. */
  static final Duration ANY_TIME = Duration.ofNanos(Long.MAX_VALUE);

  private static final int PIECE_BYTES = 8192;

  private long most;
  private Duration patience;
  private long start = System.nanoTime();
  private @Nullable ServletInputStream limited;

  /**
   * @param most bytes
   * @param patience from now to the end of the body
   */
  LimitedBody(HttpServletRequest request, long most, Duration patience) {
    super(request);
    this.most = most;
    this.patience = patience;
  }

  @Override
  public ServletInputStream getInputStream() throws IOException {
    ServletInputStream open = limited;
    if (open == null) {
      open = new Limited(super.getInputStream());
      limited = open;
    }
    return open;
  }

  /**
   * Reads what nobody has read, because the connection cannot be used again before.
   *
   * @param size the largest size of the whole body, in bytes
   * @param time how long to wait for the rest
   * @throws IOException if it does not arrive in time, or is too large
   */
  void drain(long size, Duration time) throws IOException {
    ServletInputStream in = getInputStream();
    most = size;
    start = System.nanoTime();
    patience = time;
    byte[] piece = new byte[PIECE_BYTES];
    while (!in.isFinished() && in.read(piece) >= 0) {
      // What is read is not needed.
    }
  }

  /** Reads one byte, or some. */
  @FunctionalInterface
  private interface Read {
    int read() throws IOException;
  }

  private final class Limited extends ServletInputStream {
    private final ServletInputStream from;
    private long read;

    Limited(ServletInputStream from) {
      this.from = from;
    }

    /** The server's own limit ends a read for which nothing arrives. */
    private int inTime(Read piece) throws IOException {
      int result;
      try {
        result = piece.read();
      } catch (IOException e) {
        throw e instanceof SocketTimeoutException || e.getCause() instanceof SocketTimeoutException
            ? new BodyTooSlowException(patience)
            : e;
      }
      if (result >= 0 && System.nanoTime() - start > patience.toNanos()) {
        throw new BodyTooSlowException(patience);
      }
      return result;
    }

    private int count(int more) throws IOException {
      read += Math.max(0, more);
      if (read > most) {
        throw new BodyTooLargeException(most);
      }
      return more;
    }

    @Override
    public int read() throws IOException {
      int one = inTime(from::read);
      count(one < 0 ? 0 : 1);
      return one;
    }

    @Override
    public int read(byte[] into, int offset, int length) throws IOException {
      return count(inTime(() -> from.read(into, offset, length)));
    }

    @Override
    public boolean isFinished() {
      return from.isFinished();
    }

    @Override
    public boolean isReady() {
      return from.isReady();
    }

    @Override
    public void setReadListener(ReadListener listener) {
      from.setReadListener(listener);
    }
  }
}
