package org.mnemex.service.web;

import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletRequestWrapper;
import java.io.IOException;
import org.jspecify.annotations.Nullable;

/** A request whose body fails beyond a limit, whatever length it declared. */
final class LimitedBody extends HttpServletRequestWrapper {
  private final long most;
  private @Nullable ServletInputStream limited;

  /**
   * @param most bytes
   */
  LimitedBody(HttpServletRequest request, long most) {
    super(request);
    this.most = most;
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

  private final class Limited extends ServletInputStream {
    private final ServletInputStream from;
    private long read;

    Limited(ServletInputStream from) {
      this.from = from;
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
      int one = from.read();
      count(one < 0 ? 0 : 1);
      return one;
    }

    @Override
    public int read(byte[] into, int offset, int length) throws IOException {
      return count(from.read(into, offset, length));
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
